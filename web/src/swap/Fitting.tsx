import { zodResolver } from '@hookform/resolvers/zod'
import { useState } from 'react'
import { useFieldArray, useForm, useWatch, type FieldPath, type UseFormReturn } from 'react-hook-form'
import type { Schemas, View } from '../api/client'
import { useFitting, useLookAtCheck, useNoteFitting } from './queries'
import { nowOf } from '../job/view'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { Fold } from '../ui/Fold'
import { minutes } from '../ui/format'
import { Query, Refusal } from '../ui/parts'
import { technician } from '../ui/technician'
import { CheckLine, words } from './CheckLine'
import { fittingSchema, fromFitting, fromPlace, photosOf, toFitting, type FittingForm } from './fittingForm'

type Known = Schemas['Fitting']

/** Fitting reports whether the new drive goes into the computer, by what this shop knows of its model. */
export function Fitting({ view }: { view: View }) {
  const [seen, setSeen] = useState(false)
  const fitting = useFitting(view.id, seen)
  if (!nowOf(view)) return null
  return (
    <Fold title="Will it fit in" status="form, slot, power, firmware" onOpen={() => setSeen(true)}>
      {seen && (
        <Query of={fitting} what="what is known of the model">
          {(f) => <Told view={view} of={f} />}
        </Query>
      )}
    </Fold>
  )
}

/** attachedAnswers are what is said where a slot disables ports. */
const attachedAnswers = { fine: 'Nothing there', wrong: 'In use' }

const rank = { wrong: 0, unknown: 1, fine: 2 }

function Told({ view, of: f }: { view: View; of: Known }) {
  const [changing, setChanging] = useState(false)
  const see = useLookAtCheck(view.id)
  const name = `${f.maker} ${f.model}`.trim()
  const k = f.known
  return (
    <>
      {f.slots.length > 1 && (
        <p className="pt-1">
          Best slot: <strong>{f.slots[0]!.name}</strong>
          {f.slots[0]!.state !== 'fine' && ` (${words[f.slots[0]!.state]})`}. Others: {f.slots.slice(1).map((s) => `${s.name} (${words[s.state]})`).join(', ')}.
        </p>
      )}
      <ul className="grid gap-x-8 pt-1 md:grid-cols-2">
        {f.checks
          .toSorted((a, b) => rank[a.state] - rank[b.state])
          .map((c) => (
            <CheckLine key={c.id} check={c} answers={attachedAnswers} onLook={c.by_hand ? (state) => see.run({ check: c.id, state, by: technician.get() }) : undefined} />
          ))}
      </ul>
      {see.error && <Refusal error={see.error} />}
      {k && (k.screws || k.tools || k.pitfalls || k.minutes) && (
        <dl className="grid grid-cols-[auto_1fr] gap-x-4 pt-2">
          {k.pitfalls && <Note term="Pitfalls" words={k.pitfalls} strong />}
          {k.screws && <Note term="Screws and clips" words={k.screws} />}
          {k.tools && <Note term="Tools" words={k.tools} />}
          {k.minutes ? <Note term="Opening and closing" words={minutes(k.minutes)} /> : null}
        </dl>
      )}
      {k?.photos && k.photos.length > 0 && (
        <ul aria-label="Photos of this model" className="flex flex-wrap gap-3 pt-2">
          {k.photos.map((p) => (
            <li key={p.id} className="w-36">
              <a href={`/api/jobs/${p.job}/photos/${p.id}`} target="_blank" rel="noreferrer">
                <Thumbnail photo={p} />
              </a>
              <p className="text-sm text-secondary">{p.words}</p>
            </li>
          ))}
        </ul>
      )}
      <button type="button" className="btn btn-sm mt-2" aria-expanded={changing} disabled={!name} onClick={() => setChanging(!changing)}>
        {name ? `What this shop knows of ${name}` : 'Enter the computer’s maker and model first'}
      </button>
      {changing && <Form key={JSON.stringify(f)} view={view} of={f} onDone={() => setChanging(false)} />}
    </>
  )
}

function Thumbnail({ photo: p }: { photo: FittingForm['photos'][number] }) {
  return <img className="h-24 rounded-sm border border-base-300 object-cover" src={`/api/jobs/${p.job}/photos/${p.id}?size=thumbnail`} loading="lazy" alt={p.words || 'Photo'} />
}

function Note({ term, words, strong }: { term: string; words: string; strong?: boolean }) {
  return (
    <>
      <dt className="text-secondary">{term}</dt>
      <dd className={strong ? 'font-semibold' : ''}>{words}</dd>
    </>
  )
}

const forms = [
  ['', 'not known'],
  ['2.5-inch', '2.5 inch'],
  ['3.5-inch', '3.5 inch'],
  ['m.2', 'M.2'],
  ['msata', 'mSATA'],
  ['card', 'Extension card'],
] as const
const keys = [
  ['', 'not known'],
  ['M', 'M'],
  ['B', 'B'],
  ['B+M', 'B and M'],
] as const
const yesNo = [
  ['', 'not known'],
  ['yes', 'yes'],
  ['no', 'no'],
] as const

type In = UseFormReturn<FittingForm>
type Name = FieldPath<FittingForm>

function Select({ form, name, label, options }: { form: In; name: Name; label: string; options: readonly (readonly [string, string])[] }) {
  return (
    <label className="text-sm font-semibold">
      {label}
      <select className="select mt-1 flex w-40" {...form.register(name)}>
        {options.map(([value, words]) => (
          <option key={value} value={value}>
            {words}
          </option>
        ))}
      </select>
    </label>
  )
}

function Text({ form, name, label, unit, className }: { form: In; name: Name; label: string; unit?: string; className?: string }) {
  return <Field className={className ?? 'w-40'} label={label} unit={unit} inputMode={unit ? 'decimal' : undefined} error={form.getFieldState(name, form.formState).error?.message} {...form.register(name)} />
}

/** PlaceFields are what is known of one place for a drive. */
function PlaceFields({ form, at, named, onDrop }: { form: In; at: number; named: boolean; onDrop?: () => void }) {
  const [own, drive, switches] = useWatch({ control: form.control, name: [`places.${at}.form`, 'form', `places.${at}.switches`] })
  const slot = own === 'm.2' || drive === 'm.2'
  const of = <const T extends string>(name: T) => `places.${at}.${name}` as const
  return (
    <div className="flex flex-wrap items-end gap-3 pb-3">
      {named && <Text form={form} name={of('name')} label="Name of the slot" />}
      <Select form={form} name={of('form')} label="Form factor" options={forms} />
      <Text form={form} name={of('height')} label="Max. height" unit="mm" />
      {slot && <Text form={form} name={of('lengths')} label="Supported lengths" unit="mm" />}
      {slot && <Select form={form} name={of('key')} label="Key of the slot" options={keys} />}
      <Select form={form} name={of('speaks')} label="Interface" options={[['', 'not known'], ['sata', 'SATA'], ['nvme', 'NVMe'], ['both', 'both']]} />
      <Select form={form} name={of('power')} label="Power plug there" options={yesNo} />
      <Select form={form} name={of('heatSink')} label="Room for a heat sink" options={yesNo} />
      <Select form={form} name={of('switches')} label="Disables ports" options={[['', 'not known'], ['none', 'none'], ['some', 'these']]} />
      {switches === 'some' && <Text form={form} name={of('ports')} label="Ports" className="w-56" />}
      {onDrop && (
        <button type="button" className="link pb-3 text-sm" onClick={onDrop}>
          Remove this slot
        </button>
      )}
    </div>
  )
}

function Form({ view, of, onDone }: { view: View; of: Known; onDone: () => void }) {
  const note = useNoteFitting(view.id)
  const form = useForm<FittingForm>({ resolver: zodResolver(fittingSchema), defaultValues: fromFitting(of) })
  const places = useFieldArray({ control: form.control, name: 'places' })
  const [first, drive] = useWatch({ control: form.control, name: ['places.0.form', 'form'] })
  const slot = first === 'm.2' || drive === 'm.2'
  return (
    <form noValidate className="sheet mt-2 flex flex-col gap-4 p-4" onSubmit={(e) => void form.handleSubmit((f) => note.run(toFitting(f), onDone))(e)}>
      <fieldset>
        <legend className="font-bold">The new drive</legend>
        <div className="flex flex-wrap items-end gap-3">
          <Select form={form} name="form" label="Form factor of the drive" options={forms} />
          <Text form={form} name="height" label="Height with heat sink" unit="mm" className="w-52" />
          {slot && <Text form={form} name="length" label="Length of the drive" unit="mm" />}
          {slot && <Select form={form} name="key" label="Key of the drive" options={keys} />}
        </div>
      </fieldset>
      <fieldset>
        <legend className="font-bold">
          The {places.fields.length > 1 ? 'slots' : 'place'} in every {of.maker} {of.model}
        </legend>
        {places.fields.map((p, at) => (
          <PlaceFields key={p.id} form={form} at={at} named={places.fields.length > 1} onDrop={at > 0 ? () => places.remove(at) : undefined} />
        ))}
        <div className="flex flex-wrap items-end gap-3">
          <Select form={form} name="starts" label="Starts from NVMe" options={yesNo} />
          <button type="button" className="btn btn-sm" onClick={() => places.append(fromPlace())}>
            Another slot
          </button>
        </div>
      </fieldset>
      <fieldset>
        <legend className="font-bold">For the next one</legend>
        <div className="flex flex-wrap items-end gap-3">
          <Text form={form} name="pitfalls" label="Pitfalls" className="min-w-64 flex-1" />
          <Text form={form} name="screws" label="Screws and clips" className="min-w-56 flex-1" />
          <Text form={form} name="tools" label="Tools" className="min-w-56 flex-1" />
          <Text form={form} name="minutes" label="Opening and closing" unit="min" className="w-44" />
        </div>
        <Photos form={form} all={photosOf(view, of.known?.photos ?? [])} />
      </fieldset>
      <CommandButton of={note} type="submit" tone="primary" className="self-start">
        Keep it
      </CommandButton>
      {note.error && <Refusal error={note.error} />}
    </form>
  )
}

/** Photos are those that can be kept to look at when the next computer of the model comes. */
function Photos({ form, all }: { form: In; all: FittingForm['photos'] }) {
  const kept = useWatch({ control: form.control, name: 'photos' })
  if (all.length === 0) return <p className="pt-2 text-secondary">Photos of the steps can be kept for the next one, once there are some.</p>
  const wrong = form.formState.errors.photos?.message
  return (
    <div role="group" aria-label="Photos to keep" className="flex flex-wrap gap-3 pt-3">
      {all.map((p) => {
        const on = kept.some((k) => k.id === p.id)
        return (
          <label key={p.id} className={`w-36 cursor-pointer rounded-sm border-2 p-1 has-focus-visible:outline-3 ${on ? 'border-primary' : 'border-transparent'}`}>
            <Thumbnail photo={p} />
            <span className="flex min-h-11 items-center gap-2 text-sm">
              <input type="checkbox" className="checkbox checkbox-sm" checked={on} onChange={() => form.setValue('photos', on ? kept.filter((k) => k.id !== p.id) : [...kept, p], { shouldDirty: true })} />
              {p.words}
            </span>
          </label>
        )
      })}
      {wrong && <p className="text-error">{wrong}</p>}
    </div>
  )
}
