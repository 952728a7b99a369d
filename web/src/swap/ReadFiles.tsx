import { useState } from 'react'
import type { Probe, Schemas, Setup, View } from '../api/client'
import { useReadFiles } from './queries'
import { DriveChoice } from '../probe/DriveChoice'
import { drivesOf } from '../probe/drives'
import { probeHolding } from '../probe/probe'
import { useProbes } from '../probe/queries'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { Refusal } from '../ui/parts'
import { UnderWay } from './UnderWay'

type Kind = Schemas['FilesRequest']['kind']

/** ReadFiles lets a joined computer read the files of a setup's drive, with progress and pause; nothing where none has joined. */
export function ReadFiles({ view, setup, kind, label, folder = '' }: { view: View; setup: Setup; kind: Kind; label: string; folder?: string }) {
  const probe = probeHolding(useProbes(view.id).data, setup.id)
  if (!probe) return null
  const c = probe.checking
  const mine = c && c.kind === kind ? c : undefined
  if (mine?.state === 'running') return <UnderWay job={view.id} probe={probe} stop="Pause" />
  return <Start key={`${probe.id} ${mine?.order ?? ''}`} view={view} setup={setup} probe={probe} kind={kind} label={label} usual={folder} last={mine} />
}

function Start({ view, setup, probe, kind, label, usual, last }: { view: View; setup: Setup; probe: Probe; kind: Kind; label: string; usual: string; last?: Schemas['Checking'] }) {
  const read = useReadFiles(view.id)
  const there = probe.facts.volumes.some((v) => v.mount === last?.mount) // a letter can change
  const own = (there ? last?.mount : undefined) ?? probe.mounts[setup.id] ?? ''
  const [mount, setMount] = useState(own)
  const [folder, setFolder] = useState(last ? (last.folder ?? '') : usual)
  const paused = last?.state === 'cancelled'
  return (
    <div className="flex flex-col gap-2 pt-2">
      {!own && <DriveChoice drives={drivesOf(probe)} value={mount} onPick={setMount} error={read.error?.refusal.fields?.mount} />}
      {last?.state === 'failed' && (
        <p role="alert" className="border-l-4 border-error pl-3">
          <span className="font-semibold">It didn’t work:</span> {last.error}
        </p>
      )}
      <div className="flex flex-wrap items-end gap-3">
        <CommandButton of={read} tone={paused ? 'primary' : undefined} size="sm" disabled={probe.away} onClick={() => read.run({ probe: probe.id, kind, mount, folder })}>
          {paused ? 'Continue' : label}
        </CommandButton>
        {paused && <p role="status">Paused. What was read is kept.</p>}
        {probe.away && <p className="text-warning">{probe.name} is away.</p>}
        <details className="text-sm">
          <summary className="cursor-pointer py-1 text-secondary">Folder: {folder || 'the users’ own'}</summary>
          <Field className="w-96 max-w-full pt-1" label="Folder to read" placeholder="empty: the users’ own" spellCheck={false} value={folder} onChange={(e) => setFolder(e.target.value)} error={read.error?.refusal.fields?.folder} />
        </details>
      </div>
      {read.error && !read.error.refusal.fields && <Refusal error={read.error} />}
    </div>
  )
}
