import type { Schemas, Test } from '../api/client'
import { middle, type CloserRun } from '../closer/figures'

/** Piece is a phase of a run as it is raced: when it begins and ends, s from the start. */
type Piece = { id: string; name: string; counts: boolean; from: number; to: number }

/** Racer is one setup's run of a test. Its clock shows what counts; its lane shows everything that passed. */
export type Racer = { setup: string; run: CloserRun; pieces: Piece[]; lasts: number; value: number }

/** racersOf takes the middle run of each setup that has one; of those that fit, where not all do. */
export function racersOf(closer: Schemas['Closer'], setups: string[], fits: (r: CloserRun) => boolean = () => true): Racer[] {
  return setups.flatMap((setup) => {
    const run = middle(runsOn(closer, setup).filter(fits))
    return run ? [racer(closer.test, setup, run)] : []
  })
}

/** runsOn are the runs of a setup, or of one of its sittings ("s5"; in links of earlier versions "now@s5"). */
function runsOn(closer: Schemas['Closer'], side: string): CloserRun[] {
  const of = (setup: string) => closer.sides.find((s) => s.setup === setup)?.runs
  const at = side.lastIndexOf('@')
  const within = at > 0 ? (of(side.slice(0, at)) ?? []) : closer.sides.flatMap((s) => s.runs)
  return of(side) ?? within.filter((r) => r.sitting === side.slice(at + 1))
}

/**
 * fair gives what does not count (a password, a title screen) the same length on every lane, the shortest: a slow typist must not
 * lose a drive its race.
 */
export function fair(racers: Racer[]): Racer[] {
  return racers.map((r) => {
    let at = 0
    const pieces = r.pieces.map((p) => {
      const own = p.to - p.from
      const d = p.counts ? own : Math.min(...racers.map((o) => o.pieces.find((q) => q.id === p.id)).map((q) => (q ? q.to - q.from : own)))
      const piece = { ...p, from: at, to: at + d }
      at += d
      return piece
    })
    return { ...r, pieces, lasts: at }
  })
}

/** racer lays a run's phases out one after another; a run without phases is one piece. */
export function racer(test: Test, setup: string, run: CloserRun): Racer {
  let at = 0
  const pieces = (test.phases ?? []).flatMap((p): Piece[] => {
    const d = run.phases?.[p.id]
    if (d === undefined) return []
    const piece = { id: p.id, name: p.name, counts: p.counts !== false, from: at, to: at + d }
    at += d
    return [piece]
  })
  if (pieces.length === 0) pieces.push({ id: '', name: test.name, counts: true, from: 0, to: run.value })
  return { setup, run, pieces, lasts: pieces.at(-1)!.to, value: run.value }
}

/** countedBy is what a racer's clock shows at a time of the race, s: what counts of what has passed. */
export function countedBy(r: Racer, at: number): number {
  return r.pieces.reduce((sum, p) => sum + (p.counts ? Math.max(0, Math.min(at, p.to) - p.from) : 0), 0)
}

/** finished reports whether a racer is through. */
export const finished = (r: Racer, at: number) => at >= r.lasts

/** lengthOf is how long a race lasts: as long as its slowest. */
export const lengthOf = (racers: Racer[]) => Math.max(0, ...racers.map((r) => r.lasts))

/** behind says how long a racer still runs, or ran, after the first was through; 0 for the first. */
export function behind(r: Racer, racers: Racer[]): number {
  return r.lasts - Math.min(...racers.map((o) => o.lasts))
}

/** speeds at which a race can be watched. */
export const speeds = [1, 2, 4, 8] as const
