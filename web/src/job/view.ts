import type { Bare, Drive, Run, Schemas, Setup, Test, View } from '../api/client'
import { capacity } from '../ui/format'

/** Helpers for reading a job. They compute nothing that the bench computes. */

/** nowOf is the setup that is measured and reported as Now: a trial that was chosen, else the one with that role. */
export const nowOf = (v: Bare) => v.job.setups.find((s) => s.id === v.job.job.stays && s.role !== 'then') ?? setupAs(v, 'now')

export const setupAs = (v: Bare, role: Setup['role']) => v.job.setups.find((s) => s.role === role)
export const setupOf = (v: Bare, id: string) => v.job.setups.find((s) => s.id === id)
export const testOf = (v: Bare, id: string) => v.job.tests.find((t) => t.id === id)
export const driveOf = (v: Bare, setup: Setup | undefined) => v.job.drives.find((d) => d.id === setup?.drive)

/** lastSitting is the sitting that new runs on a setup belong to; one that was copied from an earlier job is closed, and one after the computer went back is the customer’s. */
export const lastSitting = (v: Bare, setup: string) => v.job.sittings.filter((s) => s.setup === setup && !s.job && !s.follow_up).at(-1)

/** runsOf returns the runs of a test on a setup in the order they were made. */
export function runsOf(v: View, test: string, setup: string): Run[] {
  const sittings = new Set(v.job.sittings.filter((s) => s.setup === setup).map((s) => s.id))
  return v.job.runs.filter((r) => r.test === test && sittings.has(r.sitting))
}

export const coverOf = (v: Bare, test: string, setup: string) => v.coverage.find((c) => c.test === test && c.setup === setup)

/** missingRuns is how many runs a test still wants on a setup. */
export function missingRuns(v: View, test: Test, setup: string): number {
  const c = coverOf(v, test.id, setup)
  return c && !c.cannot ? Math.max(0, c.wanted - c.kept) : 0
}

/** simulatedOn reports whether a setup's drive is a simulated one. */
export const simulatedOn = (v: View, setup: Setup | undefined) => Boolean(driveOf(v, setup)?.simulated)

/** repeated names a run that belongs to no side. */
const repeated = 'the first test repeated at the end of its round, as a drift check'

/** reasonAside is why a run doesn't count, or undefined if it does. */
export function reasonAside(run: Run): string | undefined {
  if (run.repeat) return repeated
  if (run.set_aside === null || run.set_aside === undefined) return undefined
  return typeof run.set_aside === 'string' ? run.set_aside : run.set_aside.reason
}

export const driveKinds: Record<Drive['kind'], string> = {
  hdd: 'hard disk',
  'sata-ssd': 'SATA SSD',
  nvme: 'NVMe SSD',
  emmc: 'eMMC',
  hybrid: 'hybrid drive',
  cached: 'disk with cache drive',
  'usb-flash': 'USB flash',
}

/** setupName names a setup as it is on the screen: Then, Now, or a trial by its own name. */
export function setupName(s: Pick<Setup, 'role' | 'name' | 'id'>): string {
  return { then: 'Then', now: 'Now', trial: s.name || (s.id.startsWith('trial') ? s.id.replace('trial', 'Trial ') : 'The earlier one') }[s.role]
}

/** itself reports whether a test is unattended. */
export const itself = (v: View, t: Test) => v.coverage.some((c) => c.test === t.id && c.automatic)

/** byHand reports whether a test is timed by a person with the timer. */
export const byHand = (v: View, t: Test) => t.unit === 's' && t.kind !== 'note' && !itself(v, t)

/** driveName names a drive for people. */
export function driveName(d: Drive | undefined): string {
  if (!d) return 'not chosen yet'
  return [d.capacity_bytes ? capacity(d.capacity_bytes) : '', driveKinds[d.kind]].filter(Boolean).join(' ')
}

const ports: Record<string, string> = { usb: ' by USB', sata: ' on SATA', m2: ' in M.2', pcie: ' on PCIe', mmc: '' }

/** whereWords says where a session was measured that was not in the customer’s computer. */
export function whereWords(w: Schemas['Where'] | undefined): string {
  if (!w) return ''
  return (w.computer === 'bench' ? 'in the workshop’s computer' : 'in another computer') + (ports[w.port ?? ''] ?? '')
}

/** conditionsInWords are test conditions in words. */
export function conditionsInWords(c: View['job']['sittings'][number]['conditions']): string[] {
  const said: string[] = []
  if (c.power) said.push(c.power === 'mains' ? 'on mains' : 'on battery')
  if (c.power_mode) said.push(c.power_mode === 'saving' ? 'power saving' : 'normal power mode')
  if (c.busy?.length) said.push(`running: ${c.busy.join(', ')}`)
  else if (c.busy) said.push('nothing else running')
  if (c.encrypting) said.push('encryption pass running')
  if (c.encrypted !== null && c.encrypted !== undefined) said.push(c.encrypted ? 'encrypted' : 'not encrypted')
  if (c.fill_pct !== null && c.fill_pct !== undefined) said.push(`${Math.round(c.fill_pct)} % full`)
  if (c.attached) said.push(c.attached.length > 0 ? `attached: ${c.attached.join(', ')}` : 'nothing else attached')
  if (c.firmware?.version) said.push(`firmware ${c.firmware.version}`)
  if (c.drive_temp_c !== null && c.drive_temp_c !== undefined) said.push(`drive at ${Math.round(c.drive_temp_c)} °C`)
  for (const e of c.events ?? []) said.push(`${{ crash: 'a crash', hang: 'a hang', restart: 'a restart', vanished: 'the drive vanished' }[e.what] ?? e.what} noted`)
  return said
}

export type SessionPurpose = 'visit' | 'question' | 'check-up'

/** purposeOf is what a session is for; older jobs say only whether it was after the computer went back. */
export const purposeOf = (s: View['job']['sittings'][number]): SessionPurpose => s.purpose ?? (s.follow_up ? 'check-up' : 'visit')

/** differs is what was so in a session and not in the other sessions of its setup: what it is named by. */
export function differs(view: View, sitting: string): string[] {
  const own = view.job.sittings.find((s) => s.id === sitting)
  if (!own) return []
  const measured = ({ power, power_mode, busy, encrypting, attached, firmware }: typeof own.conditions) => conditionsInWords({ power, power_mode, busy, encrypting, attached, firmware })
  const others = view.job.sittings.filter((s) => s.setup === own.setup && s.id !== sitting).map((s) => measured(s.conditions))
  return measured(own.conditions).filter((w) => others.some((o) => !o.includes(w)))
}

/** unknownConditions are the most important conditions that are unknown. */
export function unknownConditions(c: View['job']['sittings'][number]['conditions']): string[] {
  const unknown = (v: unknown) => v === undefined || v === null || v === ''
  return [
    unknown(c.power) && 'power',
    unknown(c.power_mode) && 'power mode',
    unknown(c.busy) && (unknown(c.background_mb_s) || unknown(c.cpu_pct)) && 'what else is running',
    unknown(c.encrypted) && 'encryption',
    unknown(c.fill_pct) && 'how full it is',
  ].filter((w): w is string => Boolean(w))
}
