/**
 * newKey is a unique key: 128 random bits. The browser's own generator works only under secure
 * addresses alone, and a phone may well reach the bench by a plain one.
 */
export function newKey(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(16)), (b) => b.toString(16).padStart(2, '0')).join('')
}
