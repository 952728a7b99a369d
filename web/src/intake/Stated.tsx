import type { ReactNode } from 'react'
import type { Schemas, Setup, View } from '../api/client'
import { useChangeSetup, useSetFate } from '../job/queries'
import { driveOf, setupName } from '../job/view'
import { Refusal } from '../ui/parts'
import type { Fate } from '../job/fate'
import { fates, links, linkOf, origins, ports, said } from './stated'

type Change = Schemas['SetupChange']

/** Stated is what is known about a setup: from the probe, or stated by a person. The rest stays unknown. */
export function Stated({ view, setup }: { view: View; setup: Setup }) {
  const change = useChangeSetup(view.id)
  const fate = useSetFate(view.id)
  const d = driveOf(view, setup)
  const name = setupName(setup)
  const put = (c: Change) => change.run({ setup: setup.id, ...c })
  const port = setup.attached?.port ?? ''
  return (
    <details className="open:basis-full">
      <summary className="cursor-pointer text-sm text-secondary">
        <span className="max-sm:hidden">{said(setup, d) || 'Port, link, system: nothing noted'}</span>
        <span className="sm:hidden">Port, link, system</span>
      </summary>
      <div className="grid gap-3 py-3 sm:grid-cols-3 lg:grid-cols-4">
        <Pick label="Port" of={name} value={port} options={ports} source={setup.attached?.source} onPick={(v) => put({ attached: { port: v as Port } })} />
        <Pick
          label="Link" of={name}
          value={setup.link?.negotiated ?? ''}
          options={links(port, setup.link?.negotiated)}
          source={setup.link?.source}
          onPick={(v) => put({ link: { kind: linkOf(port), negotiated: v } })}
        />
        <Pick label="Origin of its system" of={name} value={setup.system?.origin ?? ''} options={origins} onPick={(v) => put({ origin: v as Change['origin'] })} />
        <Text label="System version" of={name} value={setup.system?.version} source={setup.system?.source} onText={(v) => put({ system_version: v })} />
        <Text label="Also installed" of={name} value={setup.system?.also_installed} onText={(v) => put({ also_installed: v })} />
        {(d?.kind === 'hdd' || d?.kind === 'hybrid') && <Text label="Rotation speed" of={name} unit="rpm" value={d.rpm || undefined} onText={(v) => put({ drive: { rpm: Number(v) } })} />}
        <Text label="Queue depth" of={name} value={d?.queue_depth || undefined} onText={(v) => put({ drive: { queue_depth: Number(v) } })} />
        <Text label="Temperature limit" of={name} unit="°C" value={d?.rated?.max_temp_c || undefined} onText={(v) => put({ drive: { max_temp_c: Number(v) } })} />
        {d && <Pick label="What happens to the drive" of={name} value={d.fate ?? ''} options={fates} onPick={(v) => fate.run({ drive: setup.drive, fate: v as Fate })} />}
        {setup.role === 'then' && (
          <label className="flex items-center gap-2 self-end pb-2 text-sm font-semibold">
            <input type="checkbox" className="checkbox" checked={Boolean(setup.stand_in)} onChange={(e) => put({ stand_in: e.target.checked })} />
            It stands in for a drive that couldn’t be measured
          </label>
        )}
      </div>
      {Boolean(change.error ?? fate.error) && <Refusal error={change.error ?? fate.error} />}
    </details>
  )
}

type Port = NonNullable<Change['attached']>['port']

/** Source is where a value comes from: a stated one can be changed, and the probe's value replaces it. */
const Source = ({ of }: { of?: string }) => <span className="font-normal text-secondary">{of === 'stated' ? ' (stated)' : of === 'probe' ? ' (probe)' : ''}</span>

function Labelled({ label, source, children }: { label: string; source?: string; children: ReactNode }) {
  return (
    <label className="text-sm font-semibold">
      {label}
      <Source of={source} />
      {children}
    </label>
  )
}

function Pick({ label, of, value, options, source, onPick }: { label: string; of: string; value: string; options: { value: string; label: string }[]; source?: string; onPick: (v: string) => void }) {
  return (
    <Labelled label={label} source={source}>
      <select className="select mt-1 w-full" aria-label={`${label}: ${of}`} value={value} onChange={(e) => onPick(e.target.value)}>
        <option value="">Not known</option>
        {options.map((o) => (
          <option key={o.value} value={o.value}>
            {o.label}
          </option>
        ))}
      </select>
    </Labelled>
  )
}

function Text({ label, of, unit, value, source, onText }: { label: string; of: string; unit?: string; value?: string | number; source?: string; onText: (v: string) => void }) {
  const before = value === undefined ? '' : String(value)
  return (
    <Labelled label={label} source={source}>
      <span className="input mt-1 w-full">
        <input key={before} aria-label={`${label}: ${of}`} maxLength={200} defaultValue={before} onBlur={(e) => e.target.value.trim() !== before && onText(e.target.value.trim())} />
        {unit && <span className="text-secondary">{unit}</span>}
      </span>
    </Labelled>
  )
}
