import { zodResolver } from '@hookform/resolvers/zod'
import { Gamepad2, Laptop, Monitor } from 'lucide-react'
import { useState, type ReactNode } from 'react'
import { Controller, FormProvider, useForm, useWatch } from 'react-hook-form'
import { client, data } from '../api/client'
import { useOpenJob } from './queries'
import { useTemplates } from '../plan/queries'
import { Questions, usageSchema, type Usage } from '../plan/Questions'
import { relations } from '../job/relation'
import type { JobKind } from '../job/stations'
import { AtTheThumb } from '../ui/AtTheThumb'
import { Choice } from '../ui/Choice'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { FormProblems } from '../ui/FormProblems'
import { useGoOn } from '../ui/goOn'
import { Heading } from '../ui/Heading'
import { readNumber } from '../ui/numbers'
import { Refusal, SideMark, Simulated } from '../ui/parts'
import { Unsaved } from '../ui/Unsaved'
import { ComputerFields } from './ComputerFields'
import { DriveFields } from './DriveFields'
import { Reasons, type Reason } from './Reasons'
import { Returning } from './Returning'
import { fromComputer, intakeSchema, noDrive, toIntake, type IntakeInput, type IntakeOutput } from './fields'

/** IntakePage checks a computer in. A name and the kind of drive are enough to start measuring. */
export function IntakePage() {
  const open = useOpenJob()
  const goOn = useGoOn()
  const form = useForm<IntakeInput, unknown, IntakeOutput>({
    resolver: zodResolver(intakeSchema),
    defaultValues: {
      customer: { name: '', contact: '' },
      reason: '',
      computer: fromComputer(undefined),
      kind: 'upgrade',
      oldDrive: noDrive,
      newDrive: noDrive,
    },
  })
  const { register, formState, handleSubmit, setValue, control } = form
  const kind = useWatch({ control, name: 'kind' }) ?? 'upgrade'
  const templates = useTemplates().data ?? []
  const [template, setTemplate] = useState('plain')
  const usage = useForm<Usage>({ resolver: zodResolver(usageSchema), defaultValues: { answers: {} } })
  const changed = usage.formState.dirtyFields.answers ?? {}
  const answered = () => Object.fromEntries(Object.entries(usage.getValues('answers')).flatMap(([id, text]) => (changed[id] ? [[id, readNumber(text)]] : [])))
  // The answers are a form of their own, for they go with the kind of visit: both have to be right.
  const unlessWrong = async (then: () => void) => ((await usage.trigger(undefined, { shouldFocus: true })) ? then() : undefined)
  const chosen = templates.find((t) => t.id === template)
  const [filled, setFilled] = useState(false)
  const [reasons, setReasons] = useState<Reason[]>([])
  const fillIn = async () => {
    setValue('computer', fromComputer(await data(client.GET('/api/computer'))))
    setFilled(true)
  }

  return (
    <FormProvider {...form}>
      <form
        noValidate
        onSubmit={handleSubmit((v, e) =>
          unlessWrong(() =>
            open.run({ ...toIntake(v), quoted: asQuote(e), reasons: reasons.map((r, i) => (i === 0 && v.reason ? { ...r, words: v.reason } : r)), template, answers: answered() }, goOn((view) => `/jobs/${view.id}`)),
          ),
        )}
        className="flex flex-col gap-6 py-5"
      >
        <div>
          <Heading title="New job">New job</Heading>
          <p className="text-secondary">A name and the kind of drive are enough to start. Everything else can come later.</p>
        </div>
        <Controller control={control} name="kind" render={({ field }) => <Choice label="Kind of job" value={field.value} options={kinds} onChange={field.onChange} />} />
        <div className="grid gap-6 md:grid-cols-2">
          <Part title="Who and why">
            <div className="grid gap-3 sm:grid-cols-2">
              <Field label="Customer" autoFocus error={formState.errors.customer?.name?.message} {...register('customer.name')} />
              <Field label="Contact" error={formState.errors.customer?.contact?.message} {...register('customer.contact')} />
            </div>
            <Returning />
            <Reasons
              value={reasons}
              onChange={(now) => {
                // A failing drive is treated gently, unless another plan was picked.
                if (now.some((r) => r.what === 'failing') && template === 'plain') setTemplate('failing')
                setReasons(now)
              }}
            />
            <Field label="In the customer’s words" error={formState.errors.reason?.message} {...register('reason')} />
          </Part>
          <Part title="The computer">
            <ComputerFields name="computer" open={filled} />
            <button type="button" className="btn btn-sm self-start" onClick={() => void fillIn()}>
              It is this computer: fill it in
            </button>
          </Part>
          <Part title={drives[kind][0]} mark={kind === 'upgrade' ? 'then' : undefined}>
            <DriveFields name="oldDrive" priced={kind === 'comparison'} />
          </Part>
          {kind !== 'check-up' && (
            <Part title={drives[kind][1]} mark={kind === 'upgrade' ? 'now' : undefined}>
              <DriveFields name="newDrive" priced />
              {kind === 'upgrade' ? (
                <Controller
                  control={control}
                  name="relation"
                  render={({ field }) => <Choice label="What the new drive does" value={field.value} options={relations.filter((r) => r.value !== 'returns')} onChange={field.onChange} />}
                />
              ) : (
                <p className="text-secondary">More drives can be added on the job’s page.</p>
              )}
            </Part>
          )}
        </div>
        <section className="flex min-h-64 flex-col gap-4 border-t-4 border-base-300 pt-3">
          <Choice
            label="Plan"
            value={template}
            options={templates.map((t) => ({ value: t.id, label: t.name }))}
            onChange={(id) => {
              setTemplate(id)
              usage.reset({ answers: {} })
            }}
          />
          {chosen && (
            <>
              <p className="text-secondary">
                {chosen.about} {chosen.tests.length} tests: {chosen.tests.map((t) => t.name).join(' · ')}.
              </p>
              <Questions
                key={chosen.id}
                questions={chosen.questions}
                form={usage}
              />
            </>
          )}
        </section>
        <Unsaved when={formState.isDirty && !open.isPending && !open.isSuccess} />
        <FormProblems />
        {open.error && <Refusal error={open.error} />}
        <AtTheThumb>
          <CommandButton of={open} type="submit" tone="primary" size="lg">
            Open job
          </CommandButton>
        </AtTheThumb>
        {kind === 'upgrade' && (
          <p className="flex flex-wrap items-center gap-3">
            <CommandButton of={open} type="submit" data-quote>
              Quote only
            </CommandButton>
            <span className="text-secondary">A page for the customer, with the expected effect and the cost of each drive.</span>
          </p>
        )}
      </form>
      <Practice
        onPick={(simulated) =>
          void unlessWrong(() => {
            const { customer, relation } = form.getValues()
            open.run(
              { kind, customer: { ...customer, name: customer.name.trim() || 'Practice' }, reasons, relation, simulated, template, answers: answered() },
              goOn((v) => `/jobs/${v.id}`),
            )
          })
        }
      />
    </FormProvider>
  )
}

/** asQuote reports whether the form was sent with “Quote only”. */
const asQuote = (e?: { nativeEvent?: unknown }) => (e?.nativeEvent as SubmitEvent | undefined)?.submitter?.hasAttribute('data-quote') ?? false

const kinds: { value: JobKind; label: string }[] = [
  { value: 'upgrade', label: 'Upgrade: before and after' },
  { value: 'comparison', label: 'Comparison: several drives' },
  { value: 'check-up', label: 'Check-up: measured again' },
]

/** drives are the headings over the drives that are asked for. */
const drives: Record<JobKind, [string, string]> = {
  upgrade: ['Then: the current drive', 'Now: the new drive'],
  comparison: ['First drive', 'Second drive'],
  'check-up': ['The drive that is in it', ''],
}

function Part({ title, mark, children }: { title: string; mark?: 'then' | 'now'; children: ReactNode }) {
  return (
    <section className={`flex flex-col gap-4 border-t-4 pt-3 ${mark === 'then' ? 'border-then' : mark === 'now' ? 'border-now' : 'border-base-300'}`}>
      <h2 className="flex items-center gap-2 text-lg font-bold">
        {mark && <SideMark side={mark} size={16} />} {title}
      </h2>
      {children}
    </section>
  )
}

function Practice({ onPick }: { onPick: (name: string) => void }) {
  return (
    <section className="flex flex-wrap items-center gap-3 border-t border-base-300 py-5">
      <p className="mr-2">
        Or practise on a computer that is <Simulated />
      </p>
      <button type="button" className="btn btn-sm" onClick={() => onPick('laptop')}>
        <Laptop size={18} aria-hidden /> An old laptop
      </button>
      <button type="button" className="btn btn-sm" onClick={() => onPick('office')}>
        <Monitor size={18} aria-hidden /> An office tower
      </button>
      <button type="button" className="btn btn-sm" onClick={() => onPick('games')}>
        <Gamepad2 size={18} aria-hidden /> A games machine
      </button>
    </section>
  )
}
