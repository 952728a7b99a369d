import { useSetShop, useShop } from '../settings/queries'
import { OneField } from '../ui/OneField'

/** ShopName asks for the shop's name before its first report: it is at the head of every report. */
export function ShopName() {
  const shop = useShop().data
  const set = useSetShop()
  if (!shop || shop.name !== '') return null
  return (
    <section aria-labelledby="shop-name" className="sheet flex flex-col gap-2 p-4">
      <h2 id="shop-name" className="text-lg font-bold">
        Your shop’s name
      </h2>
      <p>It appears at the top of every report. Address, telephone and logo can be added in the settings.</p>
      <OneField className="max-w-xl" label="Name of the shop" placeholder="Name of the shop" verb="Save" large of={set} error={set.error} onDone={(name) => set.run({ ...shop, name })} />
    </section>
  )
}
