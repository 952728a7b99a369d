import { z } from 'zod'
import type { Schemas, View } from '../api/client'
import { numeralOrNone, readNumber } from '../ui/numbers'

const form = z.enum(['', '3.5-inch', '2.5-inch', 'm.2', 'msata', 'card'])
const key = z.enum(['', 'B', 'M', 'B+M'])
const yesNo = z.enum(['', 'yes', 'no'])
const numbers = z.string().refine((s) => listed(s).every((v) => readNumber(v) > 0), 'Numbers, such as 42, 80.')
const note = z.string().trim().max(500, 'Enter at most 500 characters.')

/** listed are the parts of a line that is parted by commas or semicolons. */
export const listed = (s: string) =>
  s
    .split(/[;,]\s+|;/)
    .map((v) => v.trim())
    .filter(Boolean)

/** placeSchema is what is in the form about a place for a drive. */
const placeSchema = z.object({
  name: z.string().trim().max(200, 'Enter at most 200 characters.'),
  form,
  height: numeralOrNone,
  lengths: numbers,
  key,
  speaks: z.enum(['', 'sata', 'nvme', 'both']),
  switches: z.enum(['', 'none', 'some']),
  ports: z.string(),
  heatSink: yesNo,
  power: yesNo,
})
export type PlaceForm = z.infer<typeof placeSchema>

/** fittingSchema is what is in the form about the places for the drive and its shape. */
export const fittingSchema = z.object({
  places: z.array(placeSchema).min(1).superRefine((all, to) => {
    if (all.length > 1) all.forEach((p, i) => p.name === '' && to.addIssue({ code: 'custom', path: [i, 'name'], message: 'Name it as the board does.' }))
  }),
  starts: yesNo,
  screws: note,
  tools: note,
  pitfalls: note,
  minutes: numeralOrNone,
  photos: z.array(z.object({ job: z.string(), id: z.string(), words: z.string() })).max(12, 'Up to 12 photos.'),
  form,
  height: numeralOrNone,
  length: numeralOrNone,
  key,
})
export type FittingForm = z.infer<typeof fittingSchema>

const said = (v: boolean | null | undefined) => (v === undefined || v === null ? '' : v ? 'yes' : 'no') as '' | 'yes' | 'no'
const meant = (v: '' | 'yes' | 'no') => (v === '' ? undefined : v === 'yes')
const text = (n: number | undefined) => (n ? String(n) : '')
const number = (s: string) => (s.trim() === '' ? 0 : readNumber(s))

type Place = Schemas['DrivePlace']

/** fromPlace fills the fields of a place; a place of which nothing is known leaves them empty. */
export function fromPlace(p: Place = {}): PlaceForm {
  const off = p.switches_off
  return {
    name: p.name ?? '',
    form: p.form ?? '',
    height: text(p.height_mm),
    lengths: (p.lengths_mm ?? []).join(', '),
    key: p.key ?? '',
    speaks: p.speaks && p.speaks.length > 1 ? 'both' : (p.speaks?.[0] ?? ''),
    switches: off === undefined || off === null ? '' : off.length > 0 ? 'some' : 'none',
    ports: (off ?? []).join(', '),
    heatSink: said(p.heat_sink),
    power: said(p.power),
  }
}

function toPlace(f: PlaceForm): Place {
  const ports = listed(f.ports)
  const off = f.switches === 'none' ? [] : f.switches === 'some' ? (ports.length > 0 ? ports : ['a port']) : undefined
  return {
    ...(f.name && { name: f.name }),
    form: f.form,
    height_mm: number(f.height),
    lengths_mm: listed(f.lengths).map(readNumber),
    key: f.key,
    speaks: f.speaks === '' ? [] : f.speaks === 'both' ? ['sata', 'nvme'] : [f.speaks],
    ...(off && { switches_off: off }),
    heat_sink: meant(f.heatSink),
    power: meant(f.power),
  }
}

/** fromFitting fills the form with what is known. */
export function fromFitting({ known, shape }: Pick<Schemas['Fitting'], 'known' | 'shape'>): FittingForm {
  return {
    places: [known?.place, ...(known?.more ?? [])].map((p) => fromPlace(p)),
    starts: said(known?.starts_nvme),
    screws: known?.screws ?? '',
    tools: known?.tools ?? '',
    pitfalls: known?.pitfalls ?? '',
    minutes: text(known?.minutes),
    photos: known?.photos ?? [],
    form: shape?.form ?? '',
    height: text(shape?.height_mm),
    length: text(shape?.length_mm),
    key: shape?.key ?? '',
  }
}

/** toFitting is what the form says; what is left out is not known. */
export function toFitting(f: FittingForm): Schemas['Noting'] {
  const [place, ...more] = f.places.map(toPlace)
  return {
    known: {
      place,
      ...(more.length > 0 && { more }),
      starts_nvme: meant(f.starts),
      screws: f.screws,
      tools: f.tools,
      pitfalls: f.pitfalls,
      minutes: number(f.minutes),
      photos: f.photos,
    },
    shape: { form: f.form, height_mm: number(f.height), length_mm: number(f.length), key: f.key },
  }
}

type Photo = FittingForm['photos'][number]

/** photosOf are those that could be kept for the model: the ones that are, and those that were taken in the job. */
export function photosOf(view: View, kept: Photo[]): Photo[] {
  const taken = (view.job.plan.steps ?? []).flatMap((s) => (s.photos ?? []).map((p) => ({ job: view.id, id: p.id, words: s.text })))
  return [...kept, ...taken.filter((t) => !kept.some((k) => k.id === t.id))]
}
