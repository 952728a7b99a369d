import { Link } from 'react-router'
import type { Schemas } from '../api/client'
import { useSettings, useShop, useUsual } from './queries'
import { time } from '../ui/format'
import { Heading } from '../ui/Heading'
import { Query } from '../ui/parts'
import { Sticks } from '../stick/Sticks'
import { setKeysOn, useKeysOn } from '../ui/shortcuts'
import { ShopForm } from './ShopForm'
import { ShopTemplates } from './ShopTemplates'
import { Prices } from './Prices'
import { Technicians } from './Technicians'
import { UsualSpread } from './UsualSpread'

/** SettingsPage is what the shop can set, and what the bench does by itself. */
export function SettingsPage() {
  const settings = useSettings()
  const usual = useUsual()
  const shop = useShop()
  return (
    <div className="flex flex-col gap-6 py-5">
      <Heading title="Settings">Settings</Heading>
      <Query of={shop} what="the shop’s settings">
        {(s) => <ShopForm shop={s} />}
      </Query>
      <Prices />
      <Technicians />
      <ShopTemplates />
      <Query of={settings} what="the settings">
        {(s) => <Backups of={s.backups} />}
      </Query>
      <Query of={usual} what="what is usual">
        {(u) => <UsualSpread of={u} />}
      </Query>
      <Sticks />
      <section>
        <h2 className="text-xl font-bold">Phones and the shop’s network</h2>
        <p className="mb-2">Which addresses the bench has, and the shop password.</p>
        <Link className="btn" to="/reach">
          Open on a phone
        </Link>
      </section>
      <KeysSwitch />
    </div>
  )
}

const megabytes = (bytes: number) => `${(bytes / 1e6).toFixed(1)} MB`

function Backups({ of }: { of: Schemas['Settings']['backups'] }) {
  return (
    <section>
      <h2 className="text-xl font-bold">Backup</h2>
      {!of ? (
        <p>Demo data is not backed up.</p>
      ) : (
        <>
          <p>
            Once a day, beside the data; the last {of.kept} are kept. They contain jobs, photos and settings, but no video clips. For everything in one file:{' '}
            <code>nowthen backup OUT.zip</code>; to restore one: <code>nowthen restore IN.zip --data FOLDER</code>.
          </p>
          {of.problem && (
            <p role="alert" className="mt-2 border-l-4 border-error pl-3 font-semibold">
              The last backup has a problem: {of.problem}.
            </p>
          )}
          {of.waiting && <p className="mt-2">Today’s backup waits until measuring on this computer has ended.</p>}
          {of.copies.length === 0 && !of.problem && !of.waiting && <p className="mt-2 text-secondary">None yet; the first one is being made.</p>}
          {of.copies.length > 0 && (
            <ul className="mt-2">
              {of.copies.map((c) => (
                <li key={c.name} className="flex flex-wrap gap-x-4 border-b border-base-300 py-1.5">
                  <span className="flex-1 basis-60 font-semibold">
                    {c.name}
                    {c.damaged.length > 0 && <span className="block text-error">{c.damaged[0] === 'all' ? 'can’t be read' : `damaged in it: ${c.damaged.join(', ')}`}</span>}
                  </span>
                  <span className="text-secondary">{time(c.made)}</span>
                  <span className="w-24 text-right">{megabytes(c.bytes)}</span>
                </li>
              ))}
            </ul>
          )}
        </>
      )}
    </section>
  )
}

/** KeysSwitch turns the single-letter keys off on this device, for people who dictate or hit keys by accident. */
function KeysSwitch() {
  const on = useKeysOn()
  return (
    <section>
      <h2 className="text-xl font-bold">Keys</h2>
      <label className="flex min-h-11 cursor-pointer items-center gap-3">
        <input type="checkbox" className="checkbox" checked={on} onChange={(e) => setKeysOn(e.target.checked)} />
        Single-key shortcuts on this device (press ? on a page to see them)
      </label>
    </section>
  )
}
