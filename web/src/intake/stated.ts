import type { Setup, View } from '../api/client'

type Drive = View['job']['drives'][number]
type Option = { value: string; label: string }

export const ports: Option[] = [
  { value: 'sata', label: 'SATA' },
  { value: 'm2', label: 'M.2' },
  { value: 'pcie', label: 'PCIe' },
  { value: 'usb', label: 'USB' },
  { value: 'mmc', label: 'Soldered (eMMC)' },
]

export const origins: Option[] = [
  { value: 'as-arrived', label: 'As it came' },
  { value: 'cloned', label: 'Cloned' },
  { value: 'fresh', label: 'Freshly installed' },
  { value: 'restored', label: 'Restored from a backup' },
]

export const fates: Option[] = [
  { value: 'stays-inside', label: 'Stays in the computer' },
  { value: 'returned', label: 'Given to the customer' },
  { value: 'kept', label: 'Kept here' },
  { value: 'used-elsewhere', label: 'Used elsewhere' },
  { value: 'put-back', label: 'Put back' },
  { value: 'destroyed', label: 'Destroyed' },
]

const named: Record<string, string[]> = {
  sata: ['1.5 Gb/s', '3 Gb/s', '6 Gb/s'],
  usb: ['2.0', '5 Gb/s', '10 Gb/s', '20 Gb/s'],
  mmc: ['HS200', 'HS400'],
  pcie: ['2.0 x2', '3.0 x1', '3.0 x2', '3.0 x4', '4.0 x2', '4.0 x4', '5.0 x4'],
}

/** linkOf is the kind of link that a port speaks; one in an M.2 slot is named by its name. */
export const linkOf = (port: string): 'sata' | 'pcie' | 'usb' | 'mmc' => (port === 'sata' || port === 'usb' || port === 'mmc' ? port : 'pcie')

/** links are the links that a port can have; what is noted already is among them. */
export function links(port: string, noted?: string): Option[] {
  const of = port === 'm2' ? [...named.pcie!, ...named.sata!] : (named[linkOf(port)] ?? [])
  const all = port === '' ? Object.values(named).flat() : of
  return (noted && !all.includes(noted) ? [noted, ...all] : all).map((v) => ({ value: v, label: v }))
}

const label = (options: Option[], value?: string) => options.find((o) => o.value === value)?.label

/** said is what is noted of a setup, in a line; where somebody stated something else than the probe found, both. */
export function said(s: Setup, d: Drive | undefined): string {
  const port = label(ports, s.attached?.port)
  const stated = s.attached?.stated?.port
  return [
    port && `${port}${s.link?.negotiated ? `, ${s.link.negotiated}` : ''}${stated && stated !== s.attached?.port ? ` (stated: ${label(ports, stated)})` : ''}`,
    label(origins, s.system?.origin)?.toLowerCase(),
    s.system?.version,
    s.system?.also_installed && `also ${s.system.also_installed}`,
    d?.rpm ? `${d.rpm} rpm` : undefined,
    s.stand_in && 'a stand-in',
    label(fates, d?.fate)?.toLowerCase(),
  ]
    .filter(Boolean)
    .join(' · ')
}
