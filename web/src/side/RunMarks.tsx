/** RunMarks draws a side's kept runs about their middle, 20 % to either side, and those that are missing as empty marks. */
export function RunMarks({ values, missing, side }: { values: number[]; missing: number; side: 'then' | 'now' }) {
  const width = 150
  const centre = middle(values)
  const at = (v: number) => width / 2 + Math.max(-1, Math.min(1, (v / centre - 1) / 0.2)) * (width / 2 - 8)
  const fill = side === 'then' ? 'fill-then' : 'fill-now'
  const empty = Array.from({ length: Math.min(missing, 6) }, (_, i) => width + 12 + i * 16)
  const all = width + 6 + empty.length * 16
  return (
    <svg width={all} height="20" viewBox={`0 0 ${all} 20`} aria-hidden className="shrink-0 max-sm:h-3.5 max-sm:w-auto">
      {values.length > 0 && <line x1="0" x2={width} y1="10" y2="10" className="stroke-base-300" />}
      {values.length > 0 && <line x1={width / 2} x2={width / 2} y1="2" y2="18" className="stroke-secondary" />}
      {values.map((v, i) =>
        side === 'then' ? (
          <rect key={i} x={at(v) - 4} y="6" width="8" height="8" rx="1" className={`${fill} opacity-80`} />
        ) : (
          <circle key={i} cx={at(v)} cy="10" r="4.5" className={`${fill} opacity-80`} />
        ),
      )}
      {empty.map((x) =>
        side === 'then' ? (
          <rect key={x} x={x - 5} y="5" width="10" height="10" rx="1" className="fill-none stroke-secondary" />
        ) : (
          <circle key={x} cx={x} cy="10" r="5" className="fill-none stroke-secondary" />
        ),
      )}
    </svg>
  )
}

/** middle is the median of values. */
export function middle(values: number[]): number {
  const sorted = [...values].sort((a, b) => a - b)
  const n = sorted.length
  return n % 2 ? sorted[(n - 1) / 2]! : (sorted[n / 2 - 1]! + sorted[n / 2]!) / 2
}

/** spread is half the range of values as a share of their middle, %; undefined for fewer than two. */
export function spread(values: number[]): number | undefined {
  if (values.length < 2) return undefined
  const m = middle(values)
  return m > 0 ? ((Math.max(...values) - Math.min(...values)) / 2 / m) * 100 : undefined
}
