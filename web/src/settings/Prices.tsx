import { usePrices, useSetPrices } from './queries'
import { driveKinds } from '../job/view'
import { FileButton } from '../ui/FileButton'
import { Query, Refusal } from '../ui/parts'

/** Prices is the shop's price list: the drives that forecasts and quotes offer. */
export function Prices() {
  const prices = usePrices()
  const set = useSetPrices()
  return (
    <section aria-labelledby="prices">
      <h2 id="prices" className="text-xl font-bold">
        Price list
      </h2>
      <Query of={prices} what="the price list">
        {(list) =>
          list.length === 0 ? (
            <p className="text-secondary">Empty. Forecasts and quotes offer the drives of this list.</p>
          ) : (
            <div className="overflow-x-auto">
              <table className="w-full">
                <tbody>
                  {list.map((p, i) => (
                    <tr key={i} className="border-b border-base-300">
                      <th scope="row" className="py-1 text-left font-semibold">
                        {p.maker} {p.model}
                      </th>
                      <td>{driveKinds[p.kind as keyof typeof driveKinds]}</td>
                      <td>{p.capacity_gb > 0 && `${p.capacity_gb} GB`}</td>
                      <td className="text-right">
                        {p.price} {p.currency}
                      </td>
                    </tr>
                  ))}
                </tbody>
              </table>
            </div>
          )
        }
      </Query>
      <p className="pt-2 text-sm text-secondary">A CSV file with the columns kind, maker, model, capacity_gb, price, currency, read_mb_s, write_mb_s. It replaces the list.</p>
      <div className="flex flex-wrap gap-2 pt-1">
        <FileButton label="Price list" accept=".csv,text/csv" onFile={(file) => void set.run(file)}>
          Import CSV
        </FileButton>
        <a className="btn btn-sm" href="/api/settings/prices" download="prices.csv">
          Save CSV
        </a>
      </div>
      {set.error && <Refusal error={set.error} />}
    </section>
  )
}
