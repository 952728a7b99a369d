import type { Finding, Ledger, Row } from '../api/client'

type Effect = Finding['effect']

/** Numbered is a finding with the number by which it is marked on its lines, and what it does to each of them. */
export type Numbered = Finding & { n: number; rows: Row[]; on: Map<string, Effect> }

const weight: Record<Effect, number> = { blocks: 2, qualifies: 1, notes: 0 }

/**
 * findingsOf are a ledger's findings, those that spoil most first: what blocks before what qualifies, many lines before few. The
 * one that is the question of the comparison is its heading and not among them, nor is that it is simulated, which is marked.
 */
export function findingsOf(l: Ledger): Numbered[] {
  // What a rule found stands once, whatever it does to which line.
  const once = new Map<string, Omit<Numbered, 'n'>>()
  for (const f of l.findings) {
    if (f.rule === l.intended || f.rule === 'simulated') continue
    const key = JSON.stringify([f.rule, f.then, f.with])
    const same = once.get(key)
    const on = new Map([...(same?.on ?? []), ...f.lines.map((id) => [id, f.effect] as const)])
    once.set(key, {
      ...(same && weight[same.effect] > weight[f.effect] ? same : f),
      minutes: Math.max(same?.minutes ?? 0, f.minutes),
      runs: [...(same?.runs ?? []), ...f.runs],
      lines: [...on.keys()],
      rows: l.rows.filter((r) => on.has(r.test.id)),
      on,
    })
  }
  return [...once.values()].sort((a, b) => weight[b.effect] - weight[a.effect] || b.rows.length - a.rows.length).map((f, i) => ({ ...f, n: i + 1 }))
}

/** effectsOf are the effects that touch each line. */
export function effectsOf(list: Numbered[]): Map<string, Set<string>> {
  const m = new Map<string, Set<string>>()
  for (const f of list) {
    for (const [id, effect] of f.on) m.set(id, (m.get(id) ?? new Set()).add(effect))
  }
  return m
}
