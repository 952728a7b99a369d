import type { Fate } from '../job/fate'
import { useQuery, type QueryClient } from '@tanstack/react-query'
import { client, data, type Client, type Probe, type Schemas, type Setup, type Template, type Timer, type View } from './client'
import { useCommand } from './command'
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
  settings: ['settings'] as const,
  reach: ['reach'] as const,
  clips: (id: string) => ['job', id, 'clips'] as const,
  probes: (id: string) => ['job', id, 'probes'] as const,
  swap: (id: string) => ['job', id, 'swap'] as const,
  catalogue: ['catalogue'] as const,
  report: (id: string) => ['job', id, 'report'] as const,
  closer: (id: string) => ['job', id, 'closer'] as const,
}

const path = (job: string) => ({ params: { path: { job } } })

export function useJobs(state: 'open' | 'finished' | 'all' | 'bin', q: string, enabled = true) {
  return useQuery({
    queryKey: [...keys.jobs, state, q],
    queryFn: () => data(client.GET('/api/jobs', { params: { query: { state, q } } })),
    placeholderData: (before) => before,
    enabled,
    refetchInterval: 60_000, // how long ago something was grows by itself
  })
}

export const useJob = (id: string) => useQuery({ queryKey: keys.job(id), queryFn: () => data(client.GET('/api/jobs/{job}', path(id))) })

export const useMeasuring = (id: string) =>
  useQuery({ queryKey: keys.measuring(id), queryFn: () => data(client.GET('/api/jobs/{job}/measuring', path(id))) })

/** useProbes are the probes that have joined a job. That one is away nobody tells: it is asked for. */
export const useProbes = (id: string) =>
  useQuery({
    queryKey: [...keys.probes(id), 'list'],
    queryFn: () => data(client.GET('/api/jobs/{job}/probes', path(id))),
    // How far a check of a drive is, nobody tells either.
    refetchInterval: (q) => (q.state.data?.some((p) => p.checking?.state === 'running') ? 1000 : 20_000),
  })

const takeProbes = (id: string) => ({ onSuccess: (probes: Probe[], _: unknown, cache: QueryClient) => cache.setQueryData([...keys.probes(id), 'list'], probes) })

/** useSwap is whether the new drive has room, whether it is at home, and what the work took; it changes with the job and with what probes tell. */
export const useSwap = (id: string, enabled = true) => useQuery({ queryKey: keys.swap(id), queryFn: () => data(client.GET('/api/jobs/{job}/swap', path(id))), enabled })

/** useRefreshProbe lets a probe say anew what its computer is. */
export const useRefreshProbe = (id: string) =>
  useCommand((probe: string, c) => data(c.POST('/api/jobs/{job}/probes/{probe}/refresh', { params: { path: { job: id, probe } } })), takeProbes(id))

export const usePair = (id: string) => useCommand((_: void, c) => data(c.POST('/api/jobs/{job}/pairing', path(id))))

export const useDismissProbe = (id: string) =>
  useCommand((probe: string, c) => data(c.DELETE('/api/jobs/{job}/probes/{probe}', { params: { path: { job: id, probe } } })), takeProbes(id))

/** useStayProbe takes back that a probe was told to leave. */
export const useStayProbe = (id: string) =>
  useCommand((probe: string, c) => data(c.POST('/api/jobs/{job}/probes/{probe}/stay', { params: { path: { job: id, probe } } })), takeProbes(id))

/** useTakeFacts notes what a probe tells of a setup; instead of what was noted, too, where that is said. */
export const useTakeFacts = (id: string) =>
  useCommand(
    ({ probe, ...body }: { probe: string; setup: string; instead?: boolean }, c) => data(c.POST('/api/jobs/{job}/probes/{probe}/facts', { params: { path: { job: id, probe } }, body })),
    {
      onSuccess: (view, _, cache) => {
        takeJob(view, cache)
        return cache.invalidateQueries({ queryKey: keys.probes(id) })
      },
    },
  )

/** useDoing does to a simulated computer what its technician does. */
export const useDoing = (id: string) =>
  useCommand(
    ({ probe, what }: { probe: string; what: string }, c) =>
      data(c.POST('/api/jobs/{job}/probes/{probe}/doings', { params: { path: { job: id, probe } }, body: { do: what } })),
    takeProbes(id),
  )

export const useTimer = (id: string) =>
  useQuery({ queryKey: keys.timer(id), queryFn: () => data(client.GET('/api/jobs/{job}/timer', path(id))) })

export const useUsual = () => useQuery({ queryKey: ['usual'], queryFn: () => data(client.GET('/api/settings/usual')) })

/** useLearn learns anew what is usual in this shop. */
export const useLearn = () =>
  useCommand((_: void, c) => data(c.POST('/api/settings/usual')), {
    onSuccess: (usual, _, cache) => {
      cache.setQueryData(['usual'], usual)
      void cache.invalidateQueries({ predicate: (q) => q.queryKey.includes('ledger') || q.queryKey.includes('report') })
    },
  })

/** Compared is what is compared: two setups, Then and Now where none are named, and the rule whose difference is the question. */
export type Compared = { then?: string; with?: string; intended?: string }

/** useLedger sets two setups against each other. */
export const useLedger = (id: string, of: Compared = {}, enabled = true) =>
  useQuery({
    queryKey: [...keys.ledger(id), of.then, of.with, of.intended],
    queryFn: () => data(client.GET('/api/jobs/{job}/ledger', { params: { path: { job: id }, query: of } })),
    placeholderData: (before) => before,
    enabled,
  })

export const useTemplates = () => useQuery({ queryKey: keys.templates, queryFn: () => data(client.GET('/api/templates')) })

export const useCatalogue = () => useQuery({ queryKey: keys.catalogue, queryFn: () => data(client.GET('/api/catalogue')) })

/** Lang is a language of reports. */
export type Lang = 'en' | 'de'

export const useReport = (id: string, lang: Lang) =>
  useQuery({
    queryKey: [...keys.report(id), lang],
    queryFn: () => data(client.GET('/api/jobs/{job}/report', { params: { path: { job: id }, query: { lang } } })),
    placeholderData: (before) => before,
  })

export const useShares = (id: string) =>
  useQuery({ queryKey: ['job', id, 'shares'], queryFn: () => data(client.GET('/api/jobs/{job}/shares', path(id))), refetchInterval: 30_000 })

export const useMakeShare = (id: string) =>
  useCommand((days: number, c) => data(c.POST('/api/jobs/{job}/shares', { ...path(id), body: { days } })), {
    onSuccess: (_, __, cache) => cache.invalidateQueries({ queryKey: ['job', id, 'shares'] }),
  })

export const useRevokeShare = (id: string) =>
  useCommand((share: string, c) => data(c.DELETE('/api/jobs/{job}/shares/{share}', { params: { path: { job: id, share } } })), {
    onSuccess: (list, _, cache) => cache.setQueryData(['job', id, 'shares'], list),
  })

/** useCandidates are the drives that were measured, against the base (Then, or a comparison's first) and against each other. */
export const useCandidates = (id: string, enabled: boolean, base?: string) =>
  useQuery({
    queryKey: [...keys.ledger(id), 'candidates', base],
    queryFn: () => data(client.GET('/api/jobs/{job}/candidates', { params: { path: { job: id }, query: { base } } })),
    placeholderData: (before) => before,
    enabled,
  })

/** useReference is a drive of an earlier job beside the lines, by that job's number. */
export const useReference = (id: string, number: string | null, setup: string | null) =>
  useQuery({
    queryKey: [...keys.ledger(id), 'reference', number, setup],
    queryFn: () => data(client.GET('/api/jobs/{job}/reference', { params: { path: { job: id }, query: { number: number!, ...(setup && { setup }) } } })),
    placeholderData: (before) => before,
    enabled: number !== null,
  })

/** useForecast is what a new drive would bring, from the shop's finished jobs. */
export const useForecast = (id: string, enabled: boolean) =>
  useQuery({ queryKey: [...keys.ledger(id), 'forecast'], queryFn: () => data(client.GET('/api/jobs/{job}/forecast', path(id))), enabled })

/** usePrices are the drives of the shop's price list. */
export const usePrices = () =>
  useQuery({
    queryKey: ['prices'],
    queryFn: () => data(client.GET('/api/settings/prices', { headers: { Accept: 'application/json' } })) as Promise<Schemas['Priced'][]>,
  })

/** useSetPrices replaces the price list by a file. */
export const useSetPrices = () =>
  useCommand((file: File, c) => data(c.PUT('/api/settings/prices', { ...asBytes(file), headers: { 'Content-Type': 'text/csv' } })), {
    onSuccess: (_, __, cache) => {
      void cache.invalidateQueries({ queryKey: ['prices'] })
    },
  })

/** useKnown is what all finished jobs tell. */
export const useKnown = () => useQuery({ queryKey: ['known'], queryFn: () => data(client.GET('/api/known')) })

/** useSetQuote says until when a quote is valid, and which drives it offers. */
export const useSetQuote = (id: string) => useJobCommand((body: Schemas['QuoteChange'], c: Client) => data(c.PUT('/api/jobs/{job}/quote', { ...path(id), body })))

/** useAcceptQuote notes that the customer takes a quote, with the drive. */
export const useAcceptQuote = (id: string) =>
  useJobCommand((new_drive: Schemas['DriveIn'], c: Client) => data(c.PUT('/api/jobs/{job}/accept', { ...path(id), body: { new_drive } })))

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

/** takeJob brings a job that a command answered with into the cache. */
function takeJob(view: View, cache: QueryClient) {
  // An event may have overtaken the answer: nothing older comes in the place of what is newer.
  cache.setQueryData<View>(keys.job(view.id), (before) => (before && before.revision > view.revision ? before : view))
  void cache.invalidateQueries({ queryKey: keys.jobs })
  void cache.invalidateQueries({ queryKey: keys.ledger(view.id) })
  void cache.invalidateQueries({ queryKey: keys.report(view.id) })
  void cache.invalidateQueries({ queryKey: keys.closer(view.id) })
  void cache.invalidateQueries({ queryKey: keys.swap(view.id) })
}

/** useJobCommand is a command whose answer is the job as it is afterwards. */
const useJobCommand = <In, Out extends View = View>(send: (input: In, c: Client) => Promise<Out>, then?: (view: Out) => void) =>
  useCommand<In, Out>(send, {
    onSuccess: (view, _, cache) => {
      takeJob(view, cache)
      then?.(view)
    },
  })

export const useOpenJob = () => useJobCommand((body: Schemas['Intake'], c: Client) => data(c.POST('/api/jobs', { body })))

/** asBytes sends a file as it is. */
const asBytes = (file: File) => ({
  body: file as unknown as string,
  bodySerializer: (body: unknown) => body as BodyInit,
  headers: { 'Content-Type': 'application/octet-stream' },
})

export const useImportJob = () =>
  useJobCommand(({ file, as }: { file: File; as?: 'update' | 'copy' }, c: Client) =>
    data(c.POST('/api/jobs/import', {
        params: { query: { name: file.name, as } },
        ...asBytes(file),
      }),
    ),
  )

export const useAmendJob = (id: string) =>
  useJobCommand((body: Schemas['Change'], c: Client) => data(c.PATCH('/api/jobs/{job}', { ...path(id), body })))

export const usePassGate = (id: string) =>
  useJobCommand((body: { gate: 'old-drive-out' | 'case-closed' | 'measured-again' | 'handed-back'; why?: string; old_drive?: string }, c: Client) =>
    data(c.POST('/api/jobs/{job}/gates', { ...path(id), body })),
  )

/** useDropWork takes an entry of other work back. */
export const useDropWork = (id: string) =>
  useJobCommand((work: string, c: Client) => data(c.DELETE('/api/jobs/{job}/work/{work}', { params: { path: { job: id, work } } })))

/** useUnpassGate takes back the checkpoint that was passed last. */
export const useUnpassGate = (id: string) =>
  useJobCommand((gate: string, c: Client) => data(c.DELETE('/api/jobs/{job}/gates/{gate}', { params: { path: { job: id, gate } } })))

/** useFate says what became of a drive. */
export const useFate = (id: string) =>
  useJobCommand(({ drive, fate }: { drive: string; fate: Fate }, c: Client) =>
    data(c.PUT('/api/jobs/{job}/drives/{drive}/fate', { params: { path: { job: id, drive } }, body: { fate } })),
  )

export const useSit = (id: string) =>
  useJobCommand((body: { setup: string; conditions: Schemas['ConditionsIn'] }, c: Client) => data(c.POST('/api/jobs/{job}/sittings', { ...path(id), body })))

export const useAmendSitting = (id: string) =>
  useJobCommand(({ sitting, conditions }: { sitting: string; conditions: Schemas['ConditionsIn'] }, c: Client) =>
    data(c.PUT('/api/jobs/{job}/sittings/{sitting}', { params: { path: { job: id, sitting } }, body: conditions })),
  )

export const useTypeIn = (id: string) =>
  useJobCommand((body: { test: string; sitting: string; text?: string; value?: number; unit?: string; note?: string; sure?: boolean } & Pick<Schemas['Run'], 'read_in' | 'bytes' | 'files'>, c: Client) =>
    data(c.POST('/api/jobs/{job}/runs', { ...path(id), body })),
  )

export const useAcceptWaiting = (id: string) =>
  useJobCommand((run: string, c: Client) => data(c.POST('/api/jobs/{job}/waiting/{run}/accept', { params: { path: { job: id, run } } })))

export const useDiscardWaiting = (id: string) =>
  useJobCommand((run: string, c: Client) => data(c.DELETE('/api/jobs/{job}/waiting/{run}', { params: { path: { job: id, run } } })))

export const useSetAside = (id: string) =>
  useJobCommand(({ run, reason }: { run: string; reason: string }, c: Client) =>
    data(c.PUT('/api/jobs/{job}/runs/{run}/set-aside', { params: { path: { job: id, run } }, body: { reason } })),
  )

export const useTakeBack = (id: string) =>
  useJobCommand((run: string, c: Client) => data(c.DELETE('/api/jobs/{job}/runs/{run}/set-aside', { params: { path: { job: id, run } } })))

export const usePerform = (id: string) =>
  useJobCommand((body: { test: string; sitting: string }, c: Client) => data(c.POST('/api/jobs/{job}/perform', { ...path(id), body })))

const takeMeasuring = (id: string) => ({ onSuccess: (_: unknown, __: unknown, cache: QueryClient) => cache.invalidateQueries({ queryKey: keys.measuring(id) }) })

export const useStartMeasuring = (id: string) =>
  useCommand(
    (body: { sitting: string; dir: string; folder?: string; tests?: string[]; runs?: number; probe?: string; patient?: boolean }, c) => data(c.POST('/api/jobs/{job}/measuring', { ...path(id), body })),
    takeMeasuring(id),
  )

/** useStartLaunches lets a probe time the launches of a program. */
export const useStartLaunches = (id: string) =>
  useCommand(
    (body: { test: string; sitting: string; probe: string; program: string; args: string[]; until: string; cold: boolean }, c) => data(c.POST('/api/jobs/{job}/launches', { ...path(id), body })),
    takeMeasuring(id),
  )

/** useTakeStarts takes starts that a computer's system recorded as runs. */
export const useTakeStarts = (id: string, probe: string) =>
  useJobCommand((body: { test: string; sitting: string; at: string[] }, c: Client) => data(c.POST('/api/jobs/{job}/probes/{probe}/starts', { params: { path: { job: id, probe } }, body })))

/** useSetBill keeps what the work costs; the ledger says what that bought. */
export const useSetBill = (id: string) => useJobCommand((body: Schemas['BillIn'], c: Client) => data(c.PUT('/api/jobs/{job}/bill', { ...path(id), body })))

/** useDue lists what is promised and not answered yet, over all jobs. It goes stale with the jobs. */
export const useDue = () => useQuery({ queryKey: [...keys.jobs, 'due'], queryFn: () => data(client.GET('/api/due')) })

/** usePromise notes what is to be looked at later, useDropPromise takes it back, useAnswerPromise keeps what came of it. */
export const usePromise = (id: string) => useJobCommand((body: Schemas['Promising'], c: Client) => data(c.POST('/api/jobs/{job}/promises', { ...path(id), body })))
export const useDropPromise = (id: string) =>
  useJobCommand((promise: string, c: Client) => data(c.DELETE('/api/jobs/{job}/promises/{promise}', { params: { path: { job: id, promise } } })))
export const useAnswerPromise = (id: string) =>
  useJobCommand(({ promise, text }: { promise: string; text: string }, c: Client) =>
    data(c.PUT('/api/jobs/{job}/promises/{promise}/answer', { params: { path: { job: id, promise } }, body: { text } })),
  )

/** useStartRestarts lets a probe time restarts of its computer. */
export const useStartRestarts = (id: string) =>
  useCommand((body: { test: string; sitting: string; probe: string; by_hand: boolean }, c) => data(c.POST('/api/jobs/{job}/restarts', { ...path(id), body })), takeMeasuring(id))

export const useCancelMeasuring = (id: string) =>
  useCommand((_: void, c) => data(c.DELETE('/api/jobs/{job}/measuring', path(id))), { ...takeMeasuring(id), onError: takeMeasuring(id).onSuccess })

/**
 * takeAnswer brings what a command answered about the timer into the cache, where an event has not overtaken it, and asks the
 * bench how the timer is now. Without the answer, what was done would be out of sight until the bench has said so.
 */
export function takeAnswer(cache: QueryClient, id: string, answer: Timer | null) {
  cache.setQueryData<Timer | null>(keys.timer(id), (before) => (before && !(answer && answer.now_ms > before.now_ms) ? before : answer))
  return cache.invalidateQueries({ queryKey: keys.timer(id) })
}

/** useTimerCommand is a command whose answer is the timer as it is afterwards. */
const useTimerCommand = <In>(id: string, send: (input: In, c: Client) => Promise<Timer | null>) =>
  useCommand<In, Timer | null>(send, {
    onSuccess: (timer, _, cache) => takeAnswer(cache, id, timer),
    onError: (_, __, cache) => cache.invalidateQueries({ queryKey: keys.timer(id) }),
  })

export const useArmTimer = (id: string) =>
  useTimerCommand(id, (body: { test: string; sitting: string; by?: string }, c) => data(c.PUT('/api/jobs/{job}/timer', { ...path(id), body })))

/** Keeping is how a run is kept; next: what follows in the same start is timed then. */
type Keeping = Schemas['Keeping'] & { next?: boolean }

/** useKeepTimer makes a run of the stopped timer. then is called once it is kept, even if the glass has gone meanwhile: its event may come first. */
export const useKeepTimer = (id: string, then: (how: Keeping) => void) =>
  useCommand((how: Keeping, c) => {
    const body = { ...how }
    delete body.next // the bench keeps the run alike
    return data(c.POST('/api/jobs/{job}/timer/keep', { ...path(id), body }))
  }, {
    onSuccess: (view, how, cache) => {
      takeJob(view, cache)
      void cache.invalidateQueries({ queryKey: keys.timer(id) })
      then(how)
    },
  })

/** useTable shows what a table of figures becomes, or takes it in. */
export const useTable = (id: string) =>
  useCommand(
    ({ file, take }: { file: File; take: '' | 'all' | 'sure' }, c) =>
      data(c.POST('/api/jobs/{job}/table', { params: { path: { job: id }, query: { name: file.name, take } }, ...asBytes(file) })),
    {
      onSuccess: (t, _, cache) => {
        if (t.taken > 0) void cache.invalidateQueries({ queryKey: keys.job(id) })
      },
    },
  )

export const useClips = (id: string) => useQuery({ queryKey: keys.clips(id), queryFn: () => data(client.GET('/api/jobs/{job}/clips', path(id))), staleTime: 0 })

const takeClips = (id: string) => (_: unknown, __: unknown, cache: QueryClient) => cache.invalidateQueries({ queryKey: keys.clips(id) })

export const useUpload = (id: string) =>
  useCommand(({ file, tell }: { file: File; tell: (share: number) => void }) => upload(id, file, tell), { onSuccess: takeClips(id), onError: takeClips(id) })

const useClipCommand = <In>(id: string, send: (input: In, c: Client) => Promise<Schemas['Clips']>) =>
  useCommand<In, Schemas['Clips']>(send, { onSuccess: (clips, _, cache) => cache.setQueryData(keys.clips(id), clips) })

export const useKeepClip = (id: string) =>
  useClipCommand(id, ({ clip, until }: { clip: string; until: string | null }, c) =>
    data(c.PATCH('/api/jobs/{job}/clips/{clip}', { params: { path: { job: id, clip } }, body: { keep_until: until } })),
  )

export const useDropClip = (id: string) =>
  useClipCommand(id, (clip: string, c) => data(c.DELETE('/api/jobs/{job}/clips/{clip}', { params: { path: { job: id, clip } } })))

export const useMarkRun = (id: string) =>
  useJobCommand(({ clip, ...body }: Schemas['Marking'] & { clip: string }, c: Client) =>
    data(c.POST('/api/jobs/{job}/clips/{clip}/runs', { params: { path: { job: id, clip } }, body })),
  )

export const useStill = (id: string) => useCommand((picture: Blob, c) => data(c.POST('/api/jobs/{job}/stills', { ...path(id), ...asBytes(picture as File) })))

export const useReach = () => useQuery({ queryKey: keys.reach, queryFn: () => data(client.GET('/api/reach')) })

export const useSession = () => useQuery({ queryKey: keys.session, queryFn: () => data(client.GET('/api/session')) })

export const useSignIn = () =>
  useCommand((password: string) => data(client.POST('/api/session', { body: { password } })), {
    onSuccess: (session, _, cache) => {
      cache.setQueryData(keys.session, session)
      void cache.invalidateQueries()
    },
  })

export const useSignOut = () =>
  useCommand(async (where: 'here' | 'everywhere') => void (await data(where === 'here' ? client.DELETE('/api/session') : client.DELETE('/api/sessions'))), {
    onSuccess: (_, __, cache) => cache.resetQueries(),
  })

export const useSetPassword = () =>
  useCommand(async (body: { password: string; current?: string }) => void (await data(client.PUT('/api/password', { body }))), {
    onSuccess: (_, __, cache) => {
      void cache.invalidateQueries({ queryKey: keys.reach })
      void cache.invalidateQueries({ queryKey: keys.session })
    },
  })

export const useTechnicians = () => useQuery({ queryKey: keys.technicians, queryFn: () => data(client.GET('/api/technicians')) })

export const useCalibrate = () =>
  useCommand((body: { name: string; times_s: number[] }, c) => data(c.POST('/api/technicians', { body })), {
    onSuccess: (_, __, cache) => cache.invalidateQueries({ queryKey: keys.technicians }),
  })

/** useRevisions are all reports that were issued of a job. */
export const useRevisions = (id: string) => useQuery({ queryKey: [...keys.report(id), 'revisions'], queryFn: () => data(client.GET('/api/jobs/{job}/reports', path(id))) })

export const useKeepCarried = (id: string) => useJobCommand((body: Schemas['Difference'], c: Client) => data(c.PUT('/api/jobs/{job}/carried', { ...path(id), body })))

export const useChooseForReport = (id: string) => useJobCommand((body: Schemas['DraftIn'], c: Client) => data(c.PUT('/api/jobs/{job}/report/draft', { ...path(id), body })))

export const useIssueReport = (id: string) =>
  useCommand((lang: Lang, c) => data(c.POST('/api/jobs/{job}/report', { params: { path: { job: id }, query: { lang } } })), {
    onSuccess: (report, lang, cache) => {
      cache.setQueryData([...keys.report(id), lang], report)
      void cache.invalidateQueries({ queryKey: keys.job(id) })
    },
  })

export const useSettings = () => useQuery({ queryKey: keys.settings, queryFn: () => data(client.GET('/api/settings')), staleTime: 0 })

export const useUseTemplate = (id: string) =>
  useJobCommand((template: string, c: Client) => data(c.PUT('/api/jobs/{job}/template', { ...path(id), body: { template } })))

/** useSavePlan saves all that was changed in the form of the plan at once. */
export const useSavePlan = (id: string) =>
  useJobCommand((body: { tests?: Record<string, Schemas["TestChange"]>; answers?: Record<string, number>; order?: string[]; headline?: string }, c: Client) =>
    data(c.PATCH('/api/jobs/{job}/plan', { ...path(id), body })),
  )

export const useAddTest = (id: string) =>
  useJobCommand((body: Schemas['NewTest'], c: Client) => data(c.POST('/api/jobs/{job}/tests', { ...path(id), body })))

export const useTakeOutTest = (id: string) =>
  useJobCommand((test: string, c: Client) => data(c.DELETE('/api/jobs/{job}/tests/{test}', { params: { path: { job: id, test } } })))

export const useExcuse = (id: string) =>
  useJobCommand((body: { test: string; setup: string; why: string }, c: Client) => data(c.PUT('/api/jobs/{job}/excuses', { ...path(id), body })))

export const useNoteWork = (id: string) =>
  useJobCommand((body: Schemas['WorkIn'], c: Client) => data(c.POST('/api/jobs/{job}/work', { ...path(id), body })))

/** useLookAtCheck keeps what somebody saw at a check by hand. */
export const useLookAtCheck = (id: string) =>
  useJobCommand(({ check, ...body }: { check: string } & Schemas['Looking'], c: Client) => data(c.PUT('/api/jobs/{job}/checks/{check}', { params: { path: { job: id, check } }, body })))

/** useWeigh lets a probe look which folders of the drive under test hold the most. */
export const useWeigh = (id: string) =>
  useCommand((probe: string, c) => data(c.POST('/api/jobs/{job}/probes/{probe}/weigh', { params: { path: { job: id, probe } } })), takeProbes(id))

/** useOwnLayout is the layout of the new drive at sizes that somebody wants; while it comes, the one before stays. */
export const useOwnLayout = (id: string, sizes: string, enabled: boolean) =>
  useQuery({
    queryKey: [...keys.swap(id), 'own', sizes],
    queryFn: () => data(client.GET('/api/jobs/{job}/layout', { params: { path: { job: id }, query: { sizes } } })),
    enabled,
    placeholderData: (before) => before,
  })

/** useHold keeps whether the new drive holds what it says, useSustained how it held out, as somebody imports it. */
export const useHold = (id: string) => useJobCommand((body: Schemas['CapacityResult'], c: Client) => data(c.PUT('/api/jobs/{job}/held', { ...path(id), body })))
export const useSustained = (id: string) => useJobCommand((body: Schemas['Sustained'], c: Client) => data(c.POST('/api/jobs/{job}/sustained', { ...path(id), body })))

/** useCheckDrive lets a probe check the new drive, useStopCheck ends that. */
export const useCheckDrive = (id: string) =>
  useCommand(({ probe, ...body }: { probe: string } & Schemas['CheckRequest'], c) => data(c.PUT('/api/jobs/{job}/probes/{probe}/check', { params: { path: { job: id, probe } }, body })), takeProbes(id))
export const useStopCheck = (id: string) =>
  useCommand((probe: string, c) => data(c.DELETE('/api/jobs/{job}/probes/{probe}/check', { params: { path: { job: id, probe } } })), takeProbes(id))

/** useFitting is whether the new drive goes into the computer, useNoteFitting notes what is known of both. */
export const useFitting = (id: string, enabled: boolean) =>
  useQuery({ queryKey: [...keys.swap(id), 'fitting'], queryFn: () => data(client.GET('/api/jobs/{job}/fitting', path(id))), enabled })
export const useNoteFitting = (id: string) => useJobCommand((body: Schemas['Noting'], c: Client) => data(c.PUT('/api/jobs/{job}/fitting', { ...path(id), body })))

/** useBeginTask begins work whose time is taken, useDescribeTask says anew what it is, useClockTask starts, switches or stops its clock. */
export const useBeginTask = (id: string) => useJobCommand((body: Schemas['Tasking'], c: Client) => data(c.POST('/api/jobs/{job}/tasks', { ...path(id), body })))
export const useDescribeTask = (id: string) =>
  useJobCommand(({ task, ...body }: { task: string } & Schemas['Tasking'], c: Client) => data(c.PUT('/api/jobs/{job}/tasks/{task}', { params: { path: { job: id, task } }, body })))
export const useClockTask = (id: string) =>
  useJobCommand(({ task, ...body }: { task: string } & Schemas['Clocking'], c: Client) =>
    data(c.PUT('/api/jobs/{job}/tasks/{task}/clock', { params: { path: { job: id, task } }, body })),
  )

export const useTick = (id: string) =>
  useJobCommand(({ step, ...body }: { step: string; done: boolean; by?: string }, c: Client) =>
    data(c.PUT('/api/jobs/{job}/steps/{step}', { params: { path: { job: id, step } }, body })),
  )

export const useAddStep = (id: string) =>
  useJobCommand((body: { text: string; when: string }, c: Client) => data(c.POST('/api/jobs/{job}/steps', { ...path(id), body })))

export const useDropStep = (id: string) =>
  useJobCommand((step: string, c: Client) => data(c.DELETE('/api/jobs/{job}/steps/{step}', { params: { path: { job: id, step } } })))

/** useAddPicture attaches a photo to a session or a run. */
export const useAddPicture = (id: string) =>
  useJobCommand(({ sitting, run, file }: { sitting?: string; run?: string; file: File }, c: Client) =>
    data(
      sitting
        ? c.POST('/api/jobs/{job}/sittings/{sitting}/photos', { params: { path: { job: id, sitting }, query: { name: file.name } }, ...asBytes(file) })
        : c.POST('/api/jobs/{job}/runs/{run}/photos', { params: { path: { job: id, run: run! }, query: { name: file.name } }, ...asBytes(file) }),
    ),
  )

export const useAddPhoto = (id: string) =>
  useJobCommand(({ step, file }: { step: string; file: File }, c: Client) =>
    data(c.POST('/api/jobs/{job}/steps/{step}/photos', {
        params: { path: { job: id, step }, query: { name: file.name } },
        ...asBytes(file),
      }),
    ),
  )

export const useAddTrial = (id: string) =>
  useJobCommand((body: { name: string; drive?: Schemas['DriveIn']; drive_id?: string; relation?: Schemas['Relation'] }, c: Client) => data(c.POST('/api/jobs/{job}/setups', { ...path(id), body })))

export const useTakeSitting = (id: string) =>
  useJobCommand(({ setup, file, sure }: { setup: string; file: File; sure?: boolean }, c: Client) =>
    data(c.POST('/api/jobs/{job}/setups/{setup}/sitting-file', {
        params: { path: { job: id, setup }, query: { name: file.name, ...(sure && { sure: '1' as const }) } },
        ...asBytes(file),
      }),
    ),
  )

export const useStay = (id: string) =>
  useJobCommand((setup: string, c: Client) => data(c.PUT('/api/jobs/{job}/setups/{setup}/stays', { params: { path: { job: id, setup } } })))

/** useHere tells whether a setup's computer is the one that the bench runs on, as its docket says: what is seen here is then so of it. */
export function useHere(view: View, setup: Setup): boolean {
  const real = !view.job.computers.find((c) => c.id === setup.computer)?.simulated
  const here = useQuery({ queryKey: ['computer'], queryFn: () => data(client.GET('/api/computer')), staleTime: Infinity, enabled: real }).data
  const of = view.job.computers.find((c) => c.id === setup.computer)
  return Boolean(real && here?.model && of?.model === here.model && of.maker === here.maker)
}

/** useBin puts a job into the bin, useRestore takes it out. */
export const useBin = (id: string) => useJobCommand((_: undefined, c: Client) => data(c.DELETE('/api/jobs/{job}', path(id))) as Promise<View>)
export const useRestore = (id: string) => useJobCommand((_: undefined, c: Client) => data(c.POST('/api/jobs/{job}/restore', path(id))))

/** useDeleteForGood deletes a job that is in the bin. */
export const useDeleteForGood = (id: string) =>
  useCommand((_: undefined, c: Client) => data(c.DELETE('/api/jobs/{job}', { params: { path: { job: id }, query: { for: 'good' } } })))

/** useWithdraw takes back a report that was issued. */
export const useWithdraw = (id: string) =>
  useJobCommand((revision: number, c: Client) => data(c.DELETE('/api/jobs/{job}/reports/{revision}', { params: { path: { job: id, revision: String(revision) } } })))

/** useSetPurpose says what a session is for. */
export const useSetPurpose = (id: string) =>
  useJobCommand(({ sitting, ...body }: { sitting: string } & Schemas['PurposeIn'], c: Client) =>
    data(c.PUT('/api/jobs/{job}/sittings/{sitting}/purpose', { params: { path: { job: id, sitting } }, body })),
  )

/** useChangeSetup changes what is said of a setup: how its drive joins, how its system got there. */
export const useChangeSetup = (id: string) =>
  useJobCommand(({ setup, ...body }: { setup: string } & Schemas['SetupChange'], c: Client) =>
    data(c.PATCH('/api/jobs/{job}/setups/{setup}', { params: { path: { job: id, setup } }, body })),
  )

export const useSetFate = (id: string) =>
  useJobCommand(({ drive, fate }: { drive: string; fate: NonNullable<Schemas['Drive']['fate']> }, c: Client) =>
    data(c.PUT('/api/jobs/{job}/drives/{drive}/fate', { params: { path: { job: id, drive } }, body: { fate: fate as Schemas['FateIn']['fate'] } })),
  )

export const useNoteUsed = (id: string) =>
  useJobCommand(({ setup, bytes }: { setup: string; bytes: number }, c: Client) =>
    data(c.PUT('/api/jobs/{job}/setups/{setup}/used', { params: { path: { job: id, setup } }, body: { bytes } })),
  )

/** useTemplateCommand is a command whose answer is the list of templates as it is afterwards. */
const useTemplateCommand = <In>(send: (input: In, c: Client) => Promise<Template[]>) =>
  useCommand<In, Template[]>(send, { onSuccess: (list, _, cache) => cache.setQueryData(keys.templates, list) })

export const useSaveTemplate = () => useTemplateCommand((body: { job: string; name: string }, c) => data(c.POST('/api/templates', { body })))

export const useDropTemplate = () =>
  useTemplateCommand((template: string, c) => data(c.DELETE('/api/templates/{template}', { params: { path: { template } } })))

/** useEarlier lists the earlier jobs of this job's computer. */
export const useEarlier = (id: string, enabled: boolean) =>
  useQuery({ queryKey: ['job', id, 'earlier'], queryFn: () => data(client.GET('/api/jobs/{job}/earlier', path(id))), enabled, staleTime: 60_000 })

export const useTakeEarlier = (id: string) => useJobCommand((job: string, c: Client) => data(c.POST('/api/jobs/{job}/earlier', { ...path(id), body: { job } })))

export const useAddOther = (id: string) =>
  useJobCommand((body: { drive: Schemas['DriveIn']; holds?: string }, c: Client) => data(c.POST('/api/jobs/{job}/other-drives', { ...path(id), body })))

export const useDropOther = (id: string) =>
  useJobCommand((drive: string, c: Client) => data(c.DELETE('/api/jobs/{job}/other-drives/{drive}', { params: { path: { job: id, drive } } })))

export const useNoteEvent = (id: string) =>
  useJobCommand((body: Schemas['Happening'], c: Client) => data(c.POST('/api/jobs/{job}/events', { ...path(id), body })))

export const useForgetEvent = (id: string) =>
  useJobCommand((setup: string, c: Client) => data(c.DELETE('/api/jobs/{job}/setups/{setup}/last-event', { params: { path: { job: id, setup } } })))

export const useUndoTemplate = (id: string) => useJobCommand((_: void, c: Client) => data(c.DELETE('/api/jobs/{job}/template', path(id))))

export const useShop = () => useQuery({ queryKey: ['shop'], queryFn: () => data(client.GET('/api/settings/shop')) })

/** useSetShop sets what holds for all jobs of the shop. */
export const useSetShop = () =>
  useCommand((body: Schemas['Shop'], c) => data(c.PUT('/api/settings/shop', { body })), {
    onSuccess: (shop, _, cache) => {
      cache.setQueryData(['shop'], shop)
      void cache.invalidateQueries({ predicate: (q) => q.queryKey.includes('ledger') || q.queryKey.includes('report') || q.queryKey.includes('templates') })
    },
  })
