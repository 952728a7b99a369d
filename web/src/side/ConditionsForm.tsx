import { useState } from 'react'
import { client, data, type Conditions, type Schemas } from '../api/client'
import { Choice } from '../ui/Choice'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { Refusal } from '../ui/parts'

const busyKinds = ['recording', 'download', 'update', 'indexing', 'backup', 'scan', 'other'] as const
const busyLabels: Record<string, string> = {
  recording: 'a recording',
  download: 'a download',
  update: 'an update',
  indexing: 'indexing',
  backup: 'a backup',
  scan: 'a virus scan',
  other: 'something else',
}

type Known = 'yes' | 'no' | 'unknown'
const known = (b: boolean | null | undefined): Known => (b === true ? 'yes' : b === false ? 'no' : 'unknown')
const fromKnown = (k: Known) => (k === 'unknown' ? undefined : k === 'yes')

/** Busy says that nothing else is running, or that nobody knows. */
function Busy({ label, on, onPick }: { label: string; on: boolean; onPick: () => void }) {
  return (
    <label className={`btn btn-sm h-10 ${on ? 'btn-primary' : ''} has-focus-visible:outline-3`}>
      <input type="radio" name="busy" className="sr-only" checked={on} onChange={onPick} />
      {label}
    </label>
  )
}

/** without takes one out of a list; undefined where it is not in it. */
function without(list: string[] | undefined, k: string): string[] | undefined {
  if (!list?.includes(k)) return undefined
  return list.filter((x) => x !== k)
}

/** noNulls leaves out what is not known: it is not sent. */
export function noNulls({ busy, power, power_mode, ...all }: Conditions): Schemas['ConditionsIn'] {
  // What happened, and what was measured of the battery, the bench keeps itself.
  const rest = { ...all }
  for (const own of ['events', 'battery_from_pct', 'battery_to_pct'] as const) delete rest[own]
  return {
    ...(Object.fromEntries(Object.entries(rest).filter(([, v]) => v !== null && v !== undefined)) as typeof rest),
    ...(busy && { busy: busy as NonNullable<Schemas['ConditionsIn']['busy']> }),
    ...(power && { power }),
    ...(power_mode && { power_mode }),
  }
}

/** ConditionsForm asks what is so while measuring; on this computer it can look by itself. */
export function ConditionsForm({
  start = {},
  here,
  dir,
  verb,
  error,
  busy,
  onDone,
}: {
  start?: Conditions
  /** here: what is measured is the computer that the bench runs on. */
  here?: boolean
  dir?: string
  verb: string
  error: unknown
  busy: boolean
  onDone: (c: Schemas['ConditionsIn']) => void
}) {
  const [c, setC] = useState<Conditions>(start)
  const [fill, setFill] = useState(start.fill_pct === null || start.fill_pct === undefined ? '' : String(start.fill_pct))
  const [looking, setLooking] = useState(false)
  const [failed, setFailed] = useState<unknown>()
  const put = (part: Conditions) => setC({ ...c, ...part })

  const look = async () => {
    setLooking(true)
    setFailed(undefined)
    try {
      const seen = await data(client.GET('/api/conditions', { params: { query: { dir } } }))
      setC((before) => ({ ...before, ...seen }))
      if (typeof seen.fill_pct === 'number') setFill(String(seen.fill_pct))
    } catch (e) {
      setFailed(e)
    }
    setLooking(false)
  }

  const level = fill.trim() === '' ? undefined : Number(fill.replace(',', '.'))
  const badLevel = level !== undefined && !(level >= 0 && level <= 100)
  return (
    <form
      aria-label="Conditions"
      className="sheet mt-2 flex flex-col gap-4 p-4"
      onSubmit={(e) => {
        e.preventDefault()
        if (!badLevel) onDone({ ...noNulls(c), fill_pct: level })
      }}
    >
      <div className="flex flex-wrap gap-x-8 gap-y-4">
        <Choice
          label="Power"
          value={c.power || 'unknown'}
          options={[
            { value: 'mains', label: 'Mains' },
            { value: 'battery', label: 'Battery' },
            { value: 'unknown', label: 'Not known' },
          ]}
          onChange={(v) => put({ power: v === 'unknown' ? undefined : v })}
        />
        <Choice
          label="Power mode"
          value={c.power_mode || 'unknown'}
          options={[
            { value: 'normal', label: 'Normal' },
            { value: 'saving', label: 'Saving' },
            { value: 'unknown', label: 'Not known' },
          ]}
          onChange={(v) => put({ power_mode: v === 'unknown' ? undefined : v })}
        />
        <Choice
          label="Drive encrypted"
          value={known(c.encrypted)}
          options={[
            { value: 'yes', label: 'Yes' },
            { value: 'no', label: 'No' },
            { value: 'unknown', label: 'Not known' },
          ]}
          onChange={(v) => put({ encrypted: fromKnown(v) })}
        />
        <Field
          className="w-36"
          label="How full"
          unit="%"
          inputMode="decimal"
          value={fill}
          error={badLevel ? 'Between 0 and 100 %.' : undefined}
          onChange={(e) => setFill(e.target.value)}
        />
      </div>
      <fieldset>
        <legend className="mb-1 text-sm font-semibold">What else is running</legend>
        <div className="flex flex-wrap gap-1.5">
          <Busy label="Not known" on={c.busy === undefined && !c.encrypting} onPick={() => put({ busy: undefined, encrypting: undefined })} />
          <Busy label="nothing" on={c.busy?.length === 0 && !c.encrypting} onPick={() => put({ busy: [], encrypting: false })} />
          {busyKinds.map((k) => {
            const on = c.busy?.includes(k) ?? false
            return (
              <label key={k} className={`btn btn-sm h-10 ${on ? 'btn-primary' : ''} has-focus-visible:outline-3`}>
                <input
                  type="checkbox"
                  className="sr-only"
                  checked={on}
                  onChange={() => put({ busy: without(c.busy, k) ?? [...(c.busy ?? []), k] })}
                />
                {busyLabels[k]}
              </label>
            )
          })}
          <label className={`btn btn-sm h-10 ${c.encrypting ? 'btn-primary' : ''} has-focus-visible:outline-3`}>
            <input type="checkbox" className="sr-only" checked={c.encrypting ?? false} onChange={() => put({ encrypting: !c.encrypting })} />
            an encryption pass
          </label>
        </div>
      </fieldset>
      {c.busy?.includes('recording') && (
        <p role="status" className="border-l-4 border-info pl-3">
          A recording on this computer slows it down. Film the screen with the phone instead, and take the time from that clip: it disturbs nothing.
        </p>
      )}
      <Further c={c} put={put} />
      {(typeof c.background_mb_s === 'number' || typeof c.cpu_pct === 'number') && (
        <p className="text-sm text-secondary">
          Detected just now: {c.background_mb_s ?? '–'} MB/s of other traffic on the drives, processor {c.cpu_pct ?? '–'} % busy.
        </p>
      )}
      {Boolean(failed) && <Refusal error={failed} />}
      {Boolean(error) && <Refusal error={error} />}
      <div className="flex flex-wrap gap-2">
        <CommandButton of={{ isPending: busy }} type="submit" tone="primary">
          {verb}
        </CommandButton>
        {here && (
          <button type="button" className="btn" disabled={looking} onClick={() => void look()}>
            {looking ? 'Detecting …' : 'Detect automatically'}
          </button>
        )}
      </div>
    </form>
  )
}

/** listed reads a list from a line: what stands between commas. */
const listed = (line: string) => line.split(',').map((s) => s.trim()).filter(Boolean)

/** Further are the conditions that matter to starts alone, folded away until somebody has them. */
function Further({ c, put }: { c: Conditions; put: (part: Conditions) => void }) {
  const firmware = (part: NonNullable<Conditions['firmware']>) => put({ firmware: { ...c.firmware, ...part } })
  return (
    <details open={Boolean(c.attached ?? c.firmware)}>
      <summary className="cursor-pointer text-sm font-semibold text-secondary">More: what hangs on it, firmware, the room</summary>
      <div className="flex flex-wrap items-end gap-x-6 gap-y-3 pt-3">
        <Choice
          label="Other drives, sticks and docks"
          value={c.attached === undefined ? 'unknown' : c.attached.length > 0 ? 'some' : 'none'}
          options={[
            { value: 'none', label: 'None attached' },
            { value: 'some', label: 'Some' },
            { value: 'unknown', label: 'Not known' },
          ]}
          onChange={(v) => put({ attached: v === 'unknown' ? undefined : v === 'none' ? [] : ['a device'] })}
        />
        {c.attached && c.attached.length > 0 && (
          <Field className="w-72" label="Which" hint="with commas between" defaultValue={c.attached.join(', ')} onBlur={(e) => put({ attached: listed(e.target.value) })} />
        )}
        <Field className="w-40" label="Firmware version" maxLength={200} defaultValue={c.firmware?.version ?? ''} onBlur={(e) => firmware({ version: e.target.value })} />
        <Choice
          label="Quick start"
          value={known(c.firmware?.quick_start)}
          options={[
            { value: 'yes', label: 'On' },
            { value: 'no', label: 'Off' },
            { value: 'unknown', label: 'Not known' },
          ]}
          onChange={(v) => firmware({ quick_start: fromKnown(v) })}
        />
        <Field className="w-40" label="Storage mode" maxLength={100} placeholder="AHCI, RAID …" defaultValue={c.firmware?.storage_mode ?? ''} onBlur={(e) => firmware({ storage_mode: e.target.value })} />
        <Field className="w-64" label="Controllers switched off" hint="with commas between" defaultValue={c.firmware?.off?.join(', ') ?? ''} onBlur={(e) => e.target.value.trim() && firmware({ off: listed(e.target.value) })} />
        <Field
          className="w-28"
          label="The room"
          unit="°C"
          inputMode="decimal"
          defaultValue={c.room_temp_c ?? ''}
          onBlur={(e) => {
            const t = Number(e.target.value.replace(',', '.'))
            put({ room_temp_c: e.target.value.trim() !== '' && Number.isFinite(t) ? t : undefined })
          }}
        />
      </div>
    </details>
  )
}
