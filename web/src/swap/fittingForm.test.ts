import { describe, expect, it } from 'vitest'
import type { View } from '../api/client'
import { fittingSchema, fromFitting, fromPlace, listed, photosOf, toFitting, type PlaceForm } from './fittingForm'

const nothing = fromFitting({ known: null, shape: null })

describe('whether a drive goes in', () => {
  it('says nothing of what nobody knows', () => {
    const { known, shape } = toFitting(fittingSchema.parse(nothing))
    expect(known?.place).toEqual({ form: '', height_mm: 0, lengths_mm: [], key: '', speaks: [], heat_sink: undefined, power: undefined })
    expect(known?.starts_nvme).toBeUndefined()
    expect(shape).toEqual({ form: '', height_mm: 0, length_mm: 0, key: '' })
  })
  it('comes back as it was said', () => {
    const said = {
      known: {
        place: { form: 'm.2' as const, height_mm: 2.4, lengths_mm: [42, 80], key: 'M' as const, speaks: ['sata' as const, 'nvme' as const], switches_off: ['SATA 5', 'SATA 6'], heat_sink: false, power: true },
        starts_nvme: true,
        screws: 'two of four millimetres',
        tools: 'a flat one',
        pitfalls: '',
        minutes: 25,
        photos: [{ job: 'j', id: 'p', words: 'Screws sorted' }],
      },
      shape: { form: 'm.2' as const, height_mm: 2.3, length_mm: 80, key: 'B+M' as const },
    }
    expect(toFitting(fittingSchema.parse(fromFitting(said)))).toEqual(said)
  })
  it('offers the photos of this job beside those that are kept, each once', () => {
    const view = { id: 'j', job: { plan: { steps: [{ text: 'Screws sorted', photos: [{ id: 'p' }, { id: 'q' }] }, { text: 'Labels' }] } } } as unknown as View
    const kept = [{ job: 'earlier', id: 'x', words: 'Hidden clip' }, { job: 'j', id: 'p', words: 'Screws sorted' }]
    expect(photosOf(view, kept).map((p) => p.id)).toEqual(['x', 'p', 'q'])
    expect(fittingSchema.safeParse({ ...nothing, photos: Array(13).fill(kept[0]) }).success).toBe(false)
  })
  it('keeps several places, each with its name', () => {
    const place = { form: 'm.2' as const, height_mm: 0, lengths_mm: [80], key: 'M' as const, speaks: ['nvme' as const], heat_sink: undefined, power: undefined }
    const known = { place: { ...place, name: 'M2_1' }, more: [{ ...place, name: 'M2_2', lengths_mm: [42] }] }
    const filled = fromFitting({ known, shape: null })
    expect(toFitting(fittingSchema.parse(filled)).known).toMatchObject(known)
    const nameless = { ...filled, places: filled.places.map((p) => ({ ...p, name: '' })) }
    expect(fittingSchema.safeParse(nameless).error?.issues.map((i) => i.path.join('.'))).toEqual(['places.0.name', 'places.1.name'])
    expect(fittingSchema.safeParse({ ...nameless, places: [nameless.places[0]] }).success).toBe(true)
  })
  it('tells no port from not known', () => {
    const offOf = (said: Partial<PlaceForm>) => toFitting({ ...nothing, places: [{ ...fromPlace(), ...said }] }).known?.place?.switches_off
    expect(offOf({ switches: 'none' })).toEqual([])
    expect(offOf({ switches: 'some' })).toEqual(['a port'])
    expect(offOf({ switches: '', ports: 'SATA 5' })).toBeUndefined()
  })
  it('reads decimals and lists apart', () => {
    expect(listed('42, 80')).toEqual(['42', '80'])
    expect(listed('2,5')).toEqual(['2,5'])
    expect(fittingSchema.safeParse({ ...nothing, places: [{ ...fromPlace(), lengths: 'long' }] }).success).toBe(false)
    expect(fittingSchema.safeParse({ ...nothing, height: '9,5' }).success).toBe(true)
    expect(toFitting({ ...nothing, height: '9,5' }).shape?.height_mm).toBe(9.5)
  })
})
