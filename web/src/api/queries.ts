import { useMutation, useQuery, useQueryClient, type QueryClient } from '@tanstack/react-query'
import { client, data, type Conditions, type Drive, type Refused, type Schemas, type Template, type Timer, type View } from './client'
import { upload } from '../video/upload'

/** keys are where answers lie in the cache; live events find them here too. */
export const keys = {
  jobs: ['jobs'] as const,
  job: (id: string) => ['job', id, 'view'] as const,
  measuring: (id: string) => ['job', id, 'measuring'] as const,
  timer: (id: string) => ['job', id, 'timer'] as const,
  ledger: (id: string) => ['job', id, 'ledger'] as const,
  templates: ['templates'] as const,
  technicians: ['technicians'] as const,
  session: ['session'] as const,
  reach: ['reach'] as const,
  clips: (id: string) => ['job', id, 'clips'] as const,
  catalogue: ['catalogue'] as const,
  report: (id: string) => ['job', id, 'report'] as const,
  closer: (id: string) => ['job', id, 'closer'] as const,
}

const path = (job: string) => ({ params: { path: { job } } })

export function useJobs(state: 'open' | 'finished' | 'all', q: string) {
  return useQuery({
    queryKey: [...keys.jobs, state, q],
    queryFn: () => data(client.GET('/api/jobs', { params: { query: { state, q } } })),
    placeholderData: (before) => before,
    refetchInterval: 60_000, // how long ago something was grows by itself
  })
}

export const useJob = (id: string) => useQuery({ queryKey: keys.job(id), queryFn: () => data(client.GET('/api/jobs/{job}', path(id))) })

export const useMeasuring = (id: string) =>
  useQuery({ queryKey: keys.measuring(id), queryFn: () => data(client.GET('/api/jobs/{job}/measuring', path(id))) })

export const useTimer = (id: string) =>
  useQuery({ queryKey: keys.timer(id), queryFn: () => data(client.GET('/api/jobs/{job}/timer', path(id))) })

/** useLedger sets two setups against each other; without ids they are Then and Now. */
export const useLedger = (id: string, then?: string, withId?: string) =>
  useQuery({
    queryKey: [...keys.ledger(id), then, withId],
    queryFn: () => data(client.GET('/api/jobs/{job}/ledger', { params: { path: { job: id }, query: { then, with: withId } } })),
    placeholderData: (before) => before,
  })

export const useTemplates = () => useQuery({ queryKey: keys.templates, queryFn: () => data(client.GET('/api/templates')) })

export const useCatalogue = () => useQuery({ queryKey: keys.catalogue, queryFn: () => data(client.GET('/api/catalogue')) })

export const useReport = (id: string) =>
  useQuery({ queryKey: keys.report(id), queryFn: () => data(client.GET('/api/jobs/{job}/report', path(id))) })

/** useCloser is everything that the runs of a test say beyond their values. */
export const useCloser = (id: string, test: string) =>
  useQuery({
    queryKey: [...keys.closer(id), test],
    queryFn: () => data(client.GET('/api/jobs/{job}/tests/{test}/closer', { params: { path: { job: id, test } } })),
  })

export const useFolders = (dir: string, enabled: boolean) =>
  useQuery({
    queryKey: ['folders', dir],
    queryFn: () => data(client.GET('/api/folders', { params: { query: { path: dir } } })),
    enabled,
    staleTime: 0,
    placeholderData: (before) => before,
  })

/** useJobCommand is a command whose answer is the job as it is afterwards. */
function useJobCommand<In>(run: (input: In) => Promise<View>) {
  const cache = useQueryClient()
  return useMutation<View, Refused, In>({
    mutationFn: run,
    onSuccess: (view) => {
      cache.setQueryData(keys.job(view.id), view)
      // Somebody else's change may have overtaken the answer.
      void cache.invalidateQueries({ queryKey: keys.job(view.id) })
      void cache.invalidateQueries({ queryKey: keys.jobs })
      void cache.invalidateQueries({ queryKey: keys.ledger(view.id) })
      void cache.invalidateQueries({ queryKey: keys.report(view.id) })
      void cache.invalidateQueries({ queryKey: keys.closer(view.id) })
    },
  })
}

export const useOpenJob = () => useJobCommand((body: Schemas['Intake']) => data(client.POST('/api/jobs', { body })))

/** asBytes sends a file as it is. */
const asBytes = (file: File) => ({
  body: file as unknown as string,
  bodySerializer: (body: unknown) => body as BodyInit,
  headers: { 'Content-Type': 'application/octet-stream' },
})

export const useImportJob = () =>
  useJobCommand((file: File) =>
    data(
      client.POST('/api/jobs/import', {
        params: { query: { name: file.name } },
        ...asBytes(file),
      }),
    ),
  )

export const useAmendJob = (id: string) =>
  useJobCommand((body: Schemas['Change']) => data(client.PATCH('/api/jobs/{job}', { ...path(id), body })))

export const usePassGate = (id: string) =>
  useJobCommand((body: { gate: 'old-drive-out' | 'measured-again' | 'handed-back'; why?: string; old_drive?: string }) =>
    data(client.POST('/api/jobs/{job}/gates', { ...path(id), body })),
  )

export const useSit = (id: string) =>
  useJobCommand((body: { setup: string; conditions: Conditions }) => data(client.POST('/api/jobs/{job}/sittings', { ...path(id), body })))

export const useAmendSitting = (id: string) =>
  useJobCommand(({ sitting, conditions }: { sitting: string; conditions: Conditions }) =>
    data(client.PUT('/api/jobs/{job}/sittings/{sitting}', { params: { path: { job: id, sitting } }, body: conditions })),
  )

export const useTypeIn = (id: string) =>
  useJobCommand((body: { test: string; sitting: string; value: number; unit: string; note?: string; sure?: boolean }) =>
    data(client.POST('/api/jobs/{job}/runs', { ...path(id), body })),
  )

export const useSetAside = (id: string) =>
  useJobCommand(({ run, reason }: { run: string; reason: string }) =>
    data(client.PUT('/api/jobs/{job}/runs/{run}/set-aside', { params: { path: { job: id, run } }, body: { reason } })),
  )

export const useTakeBack = (id: string) =>
  useJobCommand((run: string) => data(client.DELETE('/api/jobs/{job}/runs/{run}/set-aside', { params: { path: { job: id, run } } })))

export const usePerform = (id: string) =>
  useJobCommand((body: { test: string; sitting: string }) => data(client.POST('/api/jobs/{job}/perform', { ...path(id), body })))

export function useStartMeasuring(id: string) {
  const cache = useQueryClient()
  return useMutation<Schemas['Measuring'], Refused, { sitting: string; dir: string; folder?: string; tests?: string[]; runs?: number }>({
    mutationFn: (body) => data(client.POST('/api/jobs/{job}/measuring', { ...path(id), body })),
    onSuccess: () => cache.invalidateQueries({ queryKey: keys.measuring(id) }),
  })
}

export function useCancelMeasuring(id: string) {
  const cache = useQueryClient()
  return useMutation<Schemas['Measuring'], Refused, void>({
    mutationFn: () => data(client.DELETE('/api/jobs/{job}/measuring', path(id))),
    onSettled: () => cache.invalidateQueries({ queryKey: keys.measuring(id) }),
  })
}

/**
 * takeAnswer brings what a command answered about the timer into the cache. An event may have overtaken the answer, so it
 * stands only where nothing does, and the bench is asked how the timer is now.
 */
export function takeAnswer(cache: QueryClient, id: string, answer: Timer | null) {
  cache.setQueryData<Timer | null>(keys.timer(id), (before) => before ?? answer)
  return cache.invalidateQueries({ queryKey: keys.timer(id) })
}

/** useTimerCommand is a command whose answer is the timer as it is afterwards. */
function useTimerCommand<In>(id: string, run: (input: In) => Promise<Timer | null>) {
  const cache = useQueryClient()
  return useMutation<Timer | null, Refused, In>({
    mutationFn: run,
    onSuccess: (timer) => takeAnswer(cache, id, timer),
    onError: () => cache.invalidateQueries({ queryKey: keys.timer(id) }),
  })
}

export const useArmTimer = (id: string) =>
  useTimerCommand(id, (body: { test: string; sitting: string; by?: string }) => data(client.PUT('/api/jobs/{job}/timer', { ...path(id), body })))

export const useUndoTimer = (id: string) =>
  useTimerCommand(id, () => data(client.DELETE('/api/jobs/{job}/timer/presses', path(id))))

export const useDiscardTimer = (id: string) =>
  useTimerCommand(id, async () => {
    await data(client.DELETE('/api/jobs/{job}/timer', path(id)))
    return null
  })

export function useKeepTimer(id: string) {
  const cache = useQueryClient()
  const keep = useJobCommand((body: Schemas['Keeping']) => data(client.POST('/api/jobs/{job}/timer/keep', { ...path(id), body })))
  return {
    ...keep,
    mutate: (how: Schemas['Keeping'], onDone?: () => void) =>
      keep.mutate(how, {
        onSuccess: () => {
          void cache.invalidateQueries({ queryKey: keys.timer(id) })
          onDone?.()
        },
      }),
  }
}

/** useTable shows what a table of figures becomes, or takes it in. */
export function useTable(id: string) {
  const cache = useQueryClient()
  return useMutation<Schemas['Table'], Refused, { file: File; take: '' | 'all' | 'sure' }>({
    mutationFn: ({ file, take }) => data(client.POST('/api/jobs/{job}/table', { params: { path: { job: id }, query: { name: file.name, take } }, ...asBytes(file) })),
    onSuccess: (t) => {
      if (t.taken > 0) void cache.invalidateQueries({ queryKey: keys.job(id) })
    },
  })
}

export const useClips = (id: string) => useQuery({ queryKey: keys.clips(id), queryFn: () => data(client.GET('/api/jobs/{job}/clips', path(id))), staleTime: 0 })

export function useUpload(id: string) {
  const cache = useQueryClient()
  return useMutation<Schemas['Clip'], Refused, { file: File; tell: (share: number) => void }>({
    mutationFn: ({ file, tell }) => upload(id, file, tell),
    onSettled: () => cache.invalidateQueries({ queryKey: keys.clips(id) }),
  })
}

function useClipCommand<In>(id: string, run: (input: In) => Promise<Schemas['Clips']>) {
  const cache = useQueryClient()
  return useMutation<Schemas['Clips'], Refused, In>({ mutationFn: run, onSuccess: (clips) => cache.setQueryData(keys.clips(id), clips) })
}

export const useKeepClip = (id: string) =>
  useClipCommand(id, ({ clip, until }: { clip: string; until: string | null }) =>
    data(client.PATCH('/api/jobs/{job}/clips/{clip}', { params: { path: { job: id, clip } }, body: { keep_until: until } })),
  )

export const useDropClip = (id: string) =>
  useClipCommand(id, (clip: string) => data(client.DELETE('/api/jobs/{job}/clips/{clip}', { params: { path: { job: id, clip } } })))

export const useMarkRun = (id: string) =>
  useJobCommand(({ clip, ...body }: Schemas['Marking'] & { clip: string }) =>
    data(client.POST('/api/jobs/{job}/clips/{clip}/runs', { params: { path: { job: id, clip } }, body })),
  )

export const useStill = (id: string) =>
  useMutation<{ id: string }, Refused, Blob>({
    mutationFn: (picture) => data(client.POST('/api/jobs/{job}/stills', { ...path(id), ...asBytes(picture as File) })),
  })

export const useReach = () => useQuery({ queryKey: keys.reach, queryFn: () => data(client.GET('/api/reach')) })

export const useSession = () => useQuery({ queryKey: keys.session, queryFn: () => data(client.GET('/api/session')) })

export function useSignIn() {
  const cache = useQueryClient()
  return useMutation<Schemas['Session'], Refused, string>({
    mutationFn: (password) => data(client.POST('/api/session', { body: { password } })),
    onSuccess: (session) => {
      cache.setQueryData(keys.session, session)
      void cache.invalidateQueries()
    },
  })
}

export function useSignOut() {
  const cache = useQueryClient()
  return useMutation<unknown, Refused, 'here' | 'everywhere'>({
    mutationFn: (where) => data(where === 'here' ? client.DELETE('/api/session') : client.DELETE('/api/sessions')),
    onSuccess: () => cache.resetQueries(),
  })
}

export function useSetPassword() {
  const cache = useQueryClient()
  return useMutation<unknown, Refused, { password: string; current?: string }>({
    mutationFn: (body) => data(client.PUT('/api/password', { body })),
    onSuccess: () => {
      void cache.invalidateQueries({ queryKey: keys.reach })
      void cache.invalidateQueries({ queryKey: keys.session })
    },
  })
}

export const useTechnicians = () => useQuery({ queryKey: keys.technicians, queryFn: () => data(client.GET('/api/technicians')) })

export function useCalibrate() {
  const cache = useQueryClient()
  return useMutation<Schemas['Technician'], Refused, { name: string; times_s: number[] }>({
    mutationFn: (body) => data(client.POST('/api/technicians', { body })),
    onSuccess: () => cache.invalidateQueries({ queryKey: keys.technicians }),
  })
}

export function useIssueReport(id: string) {
  const cache = useQueryClient()
  return useMutation<Schemas['Report'], Refused, void>({
    mutationFn: () => data(client.POST('/api/jobs/{job}/report', path(id))),
    onSuccess: (report) => {
      cache.setQueryData(keys.report(id), report)
      void cache.invalidateQueries({ queryKey: keys.job(id) })
    },
  })
}

export const useUseTemplate = (id: string) =>
  useJobCommand((template: string) => data(client.PUT('/api/jobs/{job}/template', { ...path(id), body: { template } })))

export const useAnswers = (id: string) =>
  useJobCommand((body: Record<string, number>) => data(client.PUT('/api/jobs/{job}/answers', { ...path(id), body })))

export const useAddTest = (id: string) =>
  useJobCommand((body: Schemas['NewTest']) => data(client.POST('/api/jobs/{job}/tests', { ...path(id), body })))

export const useChangeTest = (id: string) =>
  useJobCommand(({ test, change }: { test: string; change: Schemas['TestChange'] }) =>
    data(client.PATCH('/api/jobs/{job}/tests/{test}', { params: { path: { job: id, test } }, body: change })),
  )

export const useTakeOutTest = (id: string) =>
  useJobCommand((test: string) => data(client.DELETE('/api/jobs/{job}/tests/{test}', { params: { path: { job: id, test } } })))

export const useExcuse = (id: string) =>
  useJobCommand((body: { test: string; setup: string; why: string }) => data(client.PUT('/api/jobs/{job}/excuses', { ...path(id), body })))

export const useNoteWork = (id: string) =>
  useJobCommand((body: { what: string; note?: string }) => data(client.POST('/api/jobs/{job}/work', { ...path(id), body })))

export const useTick = (id: string) =>
  useJobCommand(({ step, ...body }: { step: string; done: boolean; by?: string }) =>
    data(client.PUT('/api/jobs/{job}/steps/{step}', { params: { path: { job: id, step } }, body })),
  )

export const useAddStep = (id: string) =>
  useJobCommand((body: { text: string; when: string }) => data(client.POST('/api/jobs/{job}/steps', { ...path(id), body })))

export const useDropStep = (id: string) =>
  useJobCommand((step: string) => data(client.DELETE('/api/jobs/{job}/steps/{step}', { params: { path: { job: id, step } } })))

export const useAddPhoto = (id: string) =>
  useJobCommand(({ step, file }: { step: string; file: File }) =>
    data(
      client.POST('/api/jobs/{job}/steps/{step}/photos', {
        params: { path: { job: id, step }, query: { name: file.name } },
        ...asBytes(file),
      }),
    ),
  )

export const useAddTrial = (id: string) =>
  useJobCommand((body: { name: string; drive: Drive }) => data(client.POST('/api/jobs/{job}/setups', { ...path(id), body })))

export const useTakeSitting = (id: string) =>
  useJobCommand(({ setup, file }: { setup: string; file: File }) =>
    data(
      client.POST('/api/jobs/{job}/setups/{setup}/sitting-file', {
        params: { path: { job: id, setup }, query: { name: file.name } },
        ...asBytes(file),
      }),
    ),
  )

export const useStay = (id: string) =>
  useJobCommand((setup: string) => data(client.PUT('/api/jobs/{job}/setups/{setup}/stays', { params: { path: { job: id, setup } } })))

export const useNoteUsed = (id: string) =>
  useJobCommand(({ setup, bytes }: { setup: string; bytes: number }) =>
    data(client.PUT('/api/jobs/{job}/setups/{setup}/used', { params: { path: { job: id, setup } }, body: { bytes } })),
  )

/** useTemplateCommand is a command whose answer is the list of templates as it is afterwards. */
function useTemplateCommand<In>(run: (input: In) => Promise<Template[]>) {
  const cache = useQueryClient()
  return useMutation<Template[], Refused, In>({ mutationFn: run, onSuccess: (list) => cache.setQueryData(keys.templates, list) })
}

export const useSaveTemplate = () =>
  useTemplateCommand((body: { job: string; name: string }) => data(client.POST('/api/templates', { body })))

export const useDropTemplate = () =>
  useTemplateCommand((template: string) => data(client.DELETE('/api/templates/{template}', { params: { path: { template } } })))
