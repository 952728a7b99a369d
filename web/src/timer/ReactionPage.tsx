import { zodResolver } from '@hookform/resolvers/zod'
import { useCallback, useEffect, useMemo, useRef, useState } from 'react'
import { useForm, useWatch } from 'react-hook-form'
import { useNavigate, useSearchParams } from 'react-router'
import { z } from 'zod'
import { useCalibrate } from './queries'
import { Field } from '../ui/Field'
import { Heading } from '../ui/Heading'
import { figure, giveOrTake } from '../ui/format'
import { Refusal } from '../ui/parts'
import { useShortcuts } from '../ui/shortcuts'
import { technician } from '../ui/technician'

/** lasts is how long a calibration takes, s. */
const lasts = 20

/** pause is how long the light stays off before it turns, ms: never the same. */
const pause = () => 700 + 1300 * Math.random()

const schema = z.object({ name: z.string().trim().min(1).max(200) })

/** ReactionPage measures a technician's own reaction: twenty seconds of pressing when the light turns. */
export function ReactionPage() {
  const go = useNavigate()
  const [params] = useSearchParams()
  const back = params.get('back') ?? '/'
  const calibrate = useCalibrate()
  const { register, handleSubmit, control, getValues } = useForm({ resolver: zodResolver(schema), defaultValues: { name: technician.get() } })
  const empty = useWatch({ control, name: 'name' }).trim() === ''
  const [state, setState] = useState<'ready' | 'running' | 'done'>('ready')
  const [lit, setLit] = useState(false)
  const [count, setCount] = useState(0)
  const litAt = useRef<number>(undefined)
  const times = useRef<number[]>([])

  useEffect(() => {
    if (state !== 'running' || lit) return
    const t = setTimeout(() => {
      setLit(true)
      // The light is on the glass with the next picture.
      requestAnimationFrame((at) => (litAt.current = at))
    }, pause())
    return () => clearTimeout(t)
  }, [state, lit, count])

  useEffect(() => {
    if (state !== 'running') return
    const t = setTimeout(() => setState('done'), lasts * 1000)
    return () => clearTimeout(t)
  }, [state])

  const save = calibrate.run
  useEffect(() => {
    if (state === 'done') save({ name: getValues('name').trim(), times_s: times.current })
  }, [state, getValues, save])

  const press = useCallback(
    (at: number) => {
      if (state !== 'running' || litAt.current === undefined) return
      times.current.push((at - litAt.current) / 1000)
      litAt.current = undefined
      setLit(false)
      setCount((n) => n + 1)
    },
    [state],
  )
  const begin = () => {
    technician.set(getValues('name').trim())
    times.current = []
    litAt.current = undefined
    calibrate.reset()
    setLit(false)
    setCount(0)
    setState('running')
  }
  useShortcuts(
    useMemo(
      () => [
        { key: ' ', label: 'Press when the light turns', always: true, run: (e: KeyboardEvent) => press(e.timeStamp) },
        { key: 'Escape', label: 'Back', run: () => void go(back) },
      ],
      [press, back, go],
    ),
  )
  const result = calibrate.data
  return (
    <main
      className={`flex min-h-dvh flex-col items-center justify-center gap-6 p-6 text-center select-none ${lit ? 'bg-base-content text-base-100' : ''}`}
      onPointerDown={(e) => {
        if (!(e.target as Element).closest('button, a, input, label')) press(e.timeStamp)
      }}
    >
      {state === 'ready' && (
        <>
          <Heading title="Your own reaction" className="text-4xl font-bold">Your own reaction</Heading>
          <p className="max-w-xl text-lg">
            For twenty seconds, press Space or tap each time the screen turns dark. The spread of your reaction times is the error of hand timing.
          </p>
          <form className="flex flex-col items-center gap-6" onSubmit={(e) => void handleSubmit(begin)(e)}>
            <Field className="w-72 text-left" label="Whose reaction is it?" maxLength={100} {...register('name')} />
            <button type="submit" className="btn btn-primary btn-lg" disabled={empty}>
              Begin
            </button>
          </form>
        </>
      )}
      {state === 'running' && (
        <p className="text-6xl font-bold" role="status">
          {lit ? 'Press' : 'Wait'}
          <span className="block pt-2 text-xl font-normal">{count} presses</span>
        </p>
      )}
      {state === 'done' && (
        <>
          {calibrate.error && <Refusal error={calibrate.error} />}
          {result && (
            <p className="text-2xl" role="status">
              {result.name}: {figure(result.mean_s, 's')} on average, <strong className="block text-6xl font-bold">{giveOrTake(result.spread_s, 's')}</strong> over {result.presses} presses. It counts
              from now on.
            </p>
          )}
          <span className="flex gap-3">
            <button type="button" className="btn btn-primary btn-lg" onClick={() => void go(back)}>
              Back
            </button>
            <button type="button" className="btn btn-lg" onClick={begin}>
              Once more
            </button>
          </span>
        </>
      )}
    </main>
  )
}
