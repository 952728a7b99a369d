import { Plus, Search } from 'lucide-react'
import { useCallback, useDeferredValue, useEffect, useMemo, useRef, useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import type { Board } from '../api/client'
import { useJobs } from './queries'
import { Due } from '../later/Due'
import { Waiting } from '../stick/Waiting'
import { Heading } from '../ui/Heading'
import { LongList } from '../ui/LongList'
import { Empty, Query } from '../ui/parts'
import { useShortcuts } from '../ui/shortcuts'
import { Damage } from './Damage'
import { ImportJob } from './ImportJob'
import { JobStrip } from './JobStrip'
import { NextAtTheBench } from './NextAtTheBench'

const states = [
  { id: 'open', label: 'On the bench' },
  { id: 'finished', label: 'Finished' },
  { id: 'all', label: 'All' },
  { id: 'bin', label: 'Bin' },
] as const

/** BenchPage shows every job at work and what it needs next. */
export function BenchPage() {
  // The search is part of the address: links contain it, and Back restores it.
  const [address, setSearch] = useSearchParams()
  const state = states.find((s) => s.id === address.get('state'))?.id ?? 'open'
  const [words, setWords] = useState(address.get('q') ?? '')
  const put = useCallback(
    (key: string, value: string) =>
      setSearch(
        (before) => {
          const next = new URLSearchParams(before)
          if (value) next.set(key, value)
          else next.delete(key)
          return next
        },
        { replace: true },
      ),
    [setSearch],
  )
  const setState = useCallback((id: string) => put('state', id === 'open' ? '' : id), [put])
  // Typed text shows at once; the address follows when typing pauses.
  const rested = words === (address.get('q') ?? '')
  useEffect(() => {
    if (rested) return
    const t = setTimeout(() => put('q', words), 300)
    return () => clearTimeout(t)
  }, [rested, words, put])
  const q = useDeferredValue(words)
  const jobs = useJobs(state, q)
  const search = useRef<HTMLInputElement>(null)
  const list = useRef<HTMLDivElement>(null)

  useShortcuts(
    useMemo(() => {
      const step = (by: number) => {
        const links = [...(list.current?.querySelectorAll<HTMLAnchorElement>('a[data-job]') ?? [])]
        const at = links.indexOf(document.activeElement as HTMLAnchorElement)
        links[Math.min(links.length - 1, Math.max(0, at + by))]?.focus()
      }
      return [
        { key: '/', label: 'Search', run: () => search.current?.focus() },
        { key: 'f', label: 'Finished jobs, or those on the bench', run: () => setState(state === 'finished' ? 'open' : 'finished') },
        { key: 'j', label: 'Next job', run: () => step(1) },
        { key: 'k', label: 'Previous job', run: () => step(-1) },
        { key: 'ArrowDown', label: '', quiet: true, run: () => step(1) },
        { key: 'ArrowUp', label: '', quiet: true, run: () => step(-1) },
      ]
    }, [state, setState]),
  )

  return (
    <>
      <div className="flex flex-wrap items-center gap-3 py-5">
        <div className="mr-auto">
          <Heading title="The bench">The bench</Heading>
        </div>
        <div role="group" aria-label="Which jobs" className="join">
          {states.map((s) => (
            <button
              key={s.id}
              type="button"
              aria-pressed={state === s.id}
              className={`btn join-item btn-sm ${state === s.id ? 'btn-primary' : ''}`}
              onClick={() => setState(s.id)}
            >
              {s.label}
            </button>
          ))}
        </div>
        <label className="input input-sm w-64 max-sm:w-full">
          <Search size={16} aria-hidden />
          <span className="sr-only">Search the jobs</span>
          <input
            ref={search}
            type="search"
            placeholder="Customer, computer, drive, number"
            value={words}
            onChange={(e) => setWords(e.target.value)}
            onKeyDown={(e) => e.key === 'Escape' && search.current?.blur()}
          />
        </label>
      </div>
      <Waiting />
      <Query of={jobs} what="the jobs">
        {(board) => (
          <>
            <Damage board={board} />
            {state === 'open' && !q && <NextAtTheBench board={board} />}
            {state === 'open' && !q && <Due when="now" />}
            {state === 'finished' && board.cards.length > 0 && (
              <p className="pb-3">
                <Link className="link" to="/known">
                  What we know from these jobs
                </Link>
              </p>
            )}
            {board.cards.length > 0 ? (
              <div ref={list}>
                <LongList items={board.cards} keyOf={(c) => c.id} height={many(board) ? 57 : 140} className={many(board) ? '' : 'flex flex-col gap-3'}>
                  {(c) => <JobStrip card={c} now={jobs.dataUpdatedAt} dense={many(board)} />}
                </LongList>
              </div>
            ) : (
              <Nothing state={state} q={q} />
            )}
            {board.total > board.cards.length && (
              <p className="pt-3 text-secondary">
                {board.cards.length} of {board.total} are shown, the newest first. Search to find others.
              </p>
            )}
          </>
        )}
      </Query>
      {state === 'open' && !q && <Due when="soon" />}
      <ImportJob />
    </>
  )
}

/** many reports whether there are more jobs than fit on a screen as strips. */
const many = (board: Board) => board.cards.length > 8

function Nothing({ state, q }: { state: string; q: string }) {
  if (q) return <Empty title={`No job has “${q}” in it.`} />
  if (state === 'bin') return <Empty title="The bin is empty." />
  if (state === 'finished') return <Empty title="No job is finished yet." />
  return (
    <Empty title="No computer is on the bench.">
      <Link className="btn btn-primary" to="/new">
        <Plus size={18} aria-hidden /> Check the first one in
      </Link>
    </Empty>
  )
}
