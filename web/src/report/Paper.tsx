import type { ReactNode } from 'react'
import type { Document, Schemas } from '../api/client'
import { SideMark, Simulated } from '../ui/parts'
import { longer, scaleEnd } from './scale'

type Figure = Schemas['Figure']

/** dayIn is a day in the report's language. */
const dayIn = (lang: string, at: string) =>
  lang === 'de' ? new Date(at).toLocaleDateString('de-DE') : new Date(at).toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric' })

/** Label says a word that stands around the report, in its language. */
type Label = (name: string) => string

/** onPaper is the shop's own colour, which is chosen for white paper: a dim screen would not carry it. */
const onPaper = (colour: string | undefined) => (colour && document.documentElement.dataset.theme !== 'dim' ? { color: colour } : undefined)

/** Paper is the report as the customer reads it, on the screen and on two sheets at most. */
export function Paper({ doc }: { doc: Document }) {
  const l = (name: string) => doc.labels[name] ?? name
  const computer = doc.computer || l('computer')
  return (
    <article lang={doc.lang} data-paper className="mx-auto w-full max-w-4xl min-w-0 border border-base-300 bg-base-100 p-4 sm:p-6 md:p-12 print:max-w-none print:border-0 print:p-0">
      {doc.shop.logo && <img className="float-right mb-2 ml-4 max-h-20 max-w-56" src={`data:image/png;base64,${doc.shop.logo}`} alt="" />}
      {doc.shop.name && (
        <p className="pb-3 text-sm whitespace-pre-line" dir="auto">
          <strong style={onPaper(doc.shop.colour)}>{doc.shop.name}</strong>
          {doc.shop.address && <span className="block text-secondary">{doc.shop.address}</span>}
        </p>
      )}
      <header className="flex flex-wrap items-baseline justify-between gap-x-6 border-b-2 border-base-content pb-3">
        <p className="font-bold" dir="auto">
          {doc.customer ? l('of').replace('{computer}', computer).replace('{customer}', doc.customer) : computer}
        </p>
        <p className="text-secondary">
          {l('job').replace('{number}', doc.number)}, {doc.issued ? dayIn(doc.lang, doc.issued) : l('draft')}
          {doc.revision > 1 && `, ${l('revision').replace('{n}', String(doc.revision))}`} {doc.simulated && <Simulated small>{l('simulated')}</Simulated>}
        </p>
      </header>

      <h1 className="pt-6 text-4xl leading-tight font-bold tracking-tight print:pt-4 print:text-3xl">{doc.headline}</h1>
      <p className="pt-2 text-xl">{doc.lead}</p>
      {doc.week && <p className="pt-1 text-xl">{doc.week}</p>}
      {doc.reasons.map((r) => (
        <p key={r} className="pt-1">
          {r}
        </p>
      ))}

      {doc.note && (
        <p className="mt-2 border-l-4 border-base-content pl-3 whitespace-pre-line" dir="auto">
          {doc.note}
        </p>
      )}

      {doc.waiting.length > 0 && (
        <Part title={l('waiting')}>
          {doc.waiting.map((f) => (
            <Lane key={f.name} figure={f} end={f.unit === 's' ? scaleEnd(doc.waiting) : longer(f)} label={l} />
          ))}
          {doc.share && <p className="pt-2">{doc.share}</p>}
        </Part>
      )}

      {doc.compared && (
        <Part title={l('compared')}>
          <div className="overflow-x-auto print:overflow-visible" role="group" aria-label={l('compared')} tabIndex={0}>
            <table className="w-full [&_td]:pl-3 [&_th]:pl-3 [&_:is(td,th):first-child]:pl-0">
              <thead>
                <tr className="border-b border-base-content text-left align-bottom">
                  <th scope="col" className="py-1 font-semibold">
                    {l('test')}
                  </th>
                  {doc.compared.columns.map((c) => (
                    <th key={c} scope="col" className="py-1 font-semibold">
                      {c}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {doc.compared.rows.map((r) => (
                  <tr key={r.name} className="border-b border-base-300 align-top">
                    <th scope="row" className="py-1.5 print:py-0.5 text-left font-normal">
                      {r.name}
                    </th>
                    {r.cells.map((c, i) => (
                      <td key={doc.compared!.columns[i]} className="py-1.5 print:py-0.5">
                        {c}
                      </td>
                    ))}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <ul className="ml-5 list-disc pt-2">
            {doc.compared.said.map((s) => (
              <li key={s}>{s}</li>
            ))}
          </ul>
        </Part>
      )}

      {doc.done.length > 0 && (
        <Part title={l('done')}>
          <ul className="ml-5 list-disc">
            {doc.done.map((d) => (
              <li key={d}>{d}</li>
            ))}
          </ul>
        </Part>
      )}
      {doc.price && <p className="pt-1">{doc.price}</p>}

      {doc.changes.length > 0 && (
        <Part title={l('changes')}>
          <ul className="ml-5 list-disc">
            {doc.changes.map((c) => (
              <li key={c}>{c}</li>
            ))}
          </ul>
        </Part>
      )}

      {doc.drive.length > 0 && (
        <Part title={l('drive')}>
          <p className="pb-2 text-secondary">{l('drive-note')}</p>
          <div className="overflow-x-auto print:overflow-visible" role="group" aria-label={l('drive')} tabIndex={0}>
          <table className="w-full [&_td]:pl-3 [&_th]:pl-3 [&_:is(td,th):first-child]:pl-0">
            <thead>
              <tr className="border-b border-base-content text-left">
                <th scope="col" className="py-1 font-semibold">
                  {l('test')}
                </th>
                <th scope="col" className="py-1 text-right font-semibold text-then">
                  {l('then')}
                </th>
                <th scope="col" className="py-1 text-right font-semibold text-now">
                  {l('now')}
                </th>
                <th scope="col" className="py-1 text-right font-semibold">
                  {l('factor')}
                </th>
              </tr>
            </thead>
            <tbody>
              {doc.drive.map((f) => (
                <tr key={f.name} className="border-b border-base-300">
                  <th scope="row" className="py-1.5 print:py-0.5 text-left font-normal">
                    {f.name}
                    <Notes of={f} label={l} />
                  </th>
                  <td className="py-1.5 print:py-0.5 text-right whitespace-nowrap">{f.words.then || '–'}</td>
                  <td className="py-1.5 print:py-0.5 text-right whitespace-nowrap">{f.words.now || '–'}</td>
                  <td className="py-1.5 print:py-0.5 text-right">
                    <strong>{f.words.main}</strong>
                    {f.words.range && <span className="block text-sm text-secondary">{l('confidence').replace('{range}', f.words.range)}</span>}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          </div>
        </Part>
      )}

      {(doc.other?.length ?? 0) > 0 && (
        <Part title={l('other')}>
          <dl className="grid grid-cols-[1fr_auto_auto] gap-x-8 gap-y-1">
            {doc.other.map((f) => (
              <div key={f.name} className="contents">
                <dt>
                  {f.name}
                  <Notes of={f} label={l} />
                </dt>
                <dd>{f.words.then ? `${l('then')} ${f.words.then}` : '–'}</dd>
                <dd>{f.words.now ? `${l('now')} ${f.words.now}` : '–'}</dd>
              </div>
            ))}
          </dl>
        </Part>
      )}

      {doc.caveats.length > 0 && (
        <Part title={l('caveats')}>
          <ol className="ml-5 list-decimal">
            {doc.caveats.map((c) => (
              <li key={c.title + c.detail + c.lines.join()} className="pb-1 print:pb-0">
                <strong>{c.title}</strong> {c.detail}
                {c.lines.length > 0 && <span className="text-secondary"> ({c.lines.join(', ')})</span>}
              </li>
            ))}
          </ol>
        </Part>
      )}

      <Part title={l('how')}>
        <ul className="ml-5 list-disc text-sm">
          {doc.how.map((h) => (
            <li key={h}>{h}</li>
          ))}
        </ul>
      </Part>
      {doc.photos && doc.photos.length > 0 && (
        <section className="pt-7 print:pt-3" aria-label={l('photos')}>
          <h2 className="pb-2 text-xl font-bold">{l('photos')}</h2>
          <div className="grid gap-4 sm:grid-cols-2 print:grid-cols-2">
            {doc.photos.map((p, i) => (
              <figure key={i} className="break-inside-avoid">
                <img className="max-h-72 w-full object-contain object-left" src={`data:image/jpeg;base64,${p.data}`} alt={p.caption} />
                <figcaption className="text-sm text-secondary" dir="auto">
                  {p.caption}
                </figcaption>
              </figure>
            ))}
          </div>
        </section>
      )}
      {(doc.shop.terms || doc.shop.footer) && (
        <footer className="mt-8 border-t border-base-300 pt-2 text-xs print:mt-2 print:pt-1 text-secondary">
          {doc.shop.terms && (
            <p className="whitespace-pre-line" dir="auto">
              {doc.shop.terms}
            </p>
          )}
          {doc.shop.footer && <p dir="auto">{doc.shop.footer}</p>}
        </footer>
      )}
    </article>
  )
}

function Part({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="pt-7 print:pt-3 [&_:is(tr,li)]:break-inside-avoid">
      <h2 className="break-after-avoid pb-2 print:pb-1 text-lg font-bold">{title}</h2>
      {children}
    </section>
  )
}

/** Notes are the numbers of the caveats that touch a figure. */
function Notes({ of, label }: { of: Figure; label: Label }) {
  if (of.notes.length === 0) return null
  return (
    <sup className="ml-0.5 text-secondary" aria-label={label('see').replace('{numbers}', of.notes.join(', '))}>
      {of.notes.join(' ')}
    </sup>
  )
}

/** Lane shows a wait on both sides as two lengths on one scale. */
function Lane({ figure: f, end, label: l }: { figure: Figure; end: number; label: Label }) {
  const length = (v: number | null) => `${end > 0 && v ? Math.min(100, (v / end) * 100) : 0}%`
  return (
    <div className="break-inside-avoid pb-4 print:pb-2">
      <p className="flex flex-wrap items-baseline justify-between gap-x-4">
        <span className="font-semibold">
          {f.name}
          <Notes of={f} label={l} />
        </span>
        <span>
          <strong className="text-xl">{f.words.main}</strong>
          {f.words.extra && <span> · {f.words.extra}</span>}
        </span>
      </p>
      {(['then', 'now'] as const).map((side) => (
        <div key={side} className="mt-1 flex items-center gap-3">
          <span className={`flex w-20 items-center gap-1.5 font-semibold ${side === 'then' ? 'text-then' : 'text-now'}`}>
            <SideMark side={side} /> {l(side)}
          </span>
          <svg className="h-6 w-0 min-w-0 flex-1" aria-hidden>
            <rect width={length(f[side])} height="100%" rx="2" className={side === 'then' ? 'fill-then' : 'fill-now'} />
            {(f[side] ?? 0) > end && ['90%', '93%'].map((x) => <rect key={x} x={x} width="6" height="100%" className="fill-base-100" />)}
          </svg>
          <span className="w-24 text-right font-semibold">{f.words[side] || '–'}</span>
        </div>
      ))}
      {f.words.range && (
        <p className="pt-1 text-sm text-secondary">{l('confidence').replace('{range}', f.words.range)}</p>
      )}
    </div>
  )
}
