import { Circle, OctagonX, TriangleAlert } from 'lucide-react'

const signs = {
  blocks: { Icon: OctagonX, tone: 'text-error', words: 'not comparable' },
  qualifies: { Icon: TriangleAlert, tone: 'text-warning', words: 'with a caveat' },
  notes: { Icon: Circle, tone: 'text-secondary', words: 'a note' },
} as const

/** Sign is the mark of a finding, on itself and on the lines that it touches. */
export function Sign({ n, effect, to }: { n: number; effect: string; to?: boolean }) {
  const { Icon, tone, words } = signs[effect as keyof typeof signs]
  const sign = (
    <span className={`inline-flex items-center gap-0.5 text-sm font-bold ${tone}`}>
      <Icon size={15} aria-hidden /> {n}
    </span>
  )
  if (!to) return sign
  return (
    <a href={`#finding-${n}`} aria-label={`Finding ${n}, ${words}`} className="rounded-sm px-0.5 hover:underline">
      {sign}
    </a>
  )
}
