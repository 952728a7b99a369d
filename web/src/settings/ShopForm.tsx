import { zodResolver } from '@hookform/resolvers/zod'
import { Controller, useForm } from 'react-hook-form'
import { z } from 'zod'
import type { Schemas } from '../api/client'
import { useSetShop } from './queries'
import { Choice } from '../ui/Choice'
import { CommandButton } from '../ui/CommandButton'
import { Field } from '../ui/Field'
import { Refusal } from '../ui/parts'
import { Unsaved } from '../ui/Unsaved'
import { Logo } from './Logo'

const number = (least: number, most: number, what: string) =>
  z
    .string()
    .trim()
    .transform((s) => Number(s.replace(',', '.')))
    .refine((n) => n >= least && n <= most, what)

export const shopSchema = z.object({
  name: z.string().trim().max(200, 'Enter at most 200 characters.'),
  address: z.string().trim().max(500, 'Enter at most 500 characters.'),
  footer: z.string().trim().max(160, 'Enter at most 160 characters.'),
  terms: z.string().trim().max(3000, 'Enter at most 3,000 characters.'),
  colour: z.string().trim().toLowerCase().regex(/^(#[0-9a-f]{6})?$/, 'Six digits after a #, such as #0b5d5e.'),
  logo: z.string(),
  currency: z.string().trim().toUpperCase().regex(/^[A-Z]{3}$/, 'Three letters, such as EUR.'),
  paper: z.enum(['a4', 'letter']),
  felt_seconds: number(0, 60, 'Between 0 and 60 s.'),
  felt_pct: number(0, 100, 'Between 0 and 100 %.'),
  morning_pages: number(1, 99, 'Between 1 and 99 pages.'),
})

/** ShopForm sets what holds for all jobs of the shop. */
export function ShopForm({ shop }: { shop: Schemas['Shop'] }) {
  const save = useSetShop()
  const { felt_share, ...rest } = shop
  const form = useForm<z.input<typeof shopSchema>, unknown, z.output<typeof shopSchema>>({
    resolver: zodResolver(shopSchema),
    values: { ...rest, footer: rest.footer ?? '', terms: rest.terms ?? '', colour: rest.colour ?? '', logo: rest.logo ?? '', felt_seconds: String(rest.felt_seconds), felt_pct: String(Math.round(felt_share * 1000) / 10), morning_pages: String(rest.morning_pages) },
  })
  const { register, formState, control, handleSubmit } = form
  const { errors } = formState
  const refused = save.error?.refusal.fields
  return (
    <section aria-labelledby="shop">
      <h2 id="shop" className="mb-2 text-xl font-bold">
        The shop
      </h2>
      <form
        noValidate
        className="flex flex-col gap-4"
        onSubmit={handleSubmit(({ felt_pct, ...v }) => save.run({ ...v, felt_share: felt_pct / 100 }))}
      >
        <div className="flex flex-wrap gap-4">
          <Field className="w-72" label="Name" error={errors.name?.message} {...register('name')} />
          <Field className="min-w-72 flex-1" label="Address" error={errors.address?.message} {...register('address')} />
        </div>
        <div className="flex flex-wrap gap-x-6 gap-y-4">
          <Controller control={control} name="logo" render={({ field }) => <Logo value={field.value} error={refused?.logo} onChange={field.onChange} />} />
          <Field className="w-36" label="Header colour" placeholder="#0b5d5e" spellCheck={false} error={errors.colour?.message ?? refused?.colour} {...register('colour')} />
          <Field className="min-w-72 flex-1" label="Page footer" placeholder="registration, bank, web address" error={errors.footer?.message ?? refused?.footer} {...register('footer')} />
        </div>
        <label className="block">
          <span className="mb-1 block text-sm font-semibold">Terms, at the end of a report</span>
          <textarea className="textarea w-full" rows={3} maxLength={3000} {...register('terms')} />
        </label>
        <div className="flex flex-wrap items-end gap-x-6 gap-y-3">
          <Field className="w-28" label="Currency" maxLength={3} error={errors.currency?.message} {...register('currency')} />
          <Controller
            control={control}
            name="paper"
            render={({ field }) => (
              <Choice
                label="Paper"
                value={field.value}
                options={[
                  { value: 'a4', label: 'A4' },
                  { value: 'letter', label: 'Letter' },
                ]}
                onChange={field.onChange}
              />
            )}
          />
          <Field className="w-44" label="A difference is felt from" unit="s" inputMode="decimal" error={errors.felt_seconds?.message} {...register('felt_seconds')} />
          <Field className="w-44" label="and from" unit="% of the wait" inputMode="decimal" error={errors.felt_pct?.message} {...register('felt_pct')} />
          <Field className="w-44" label="The morning’s pages" unit="pages" inputMode="numeric" error={errors.morning_pages?.message} {...register('morning_pages')} />
        </div>
        <Unsaved when={formState.isDirty && !save.isPending} />
        {save.error && <Refusal error={save.error} />}
        <div className="flex items-center gap-3">
          <CommandButton of={save} type="submit" tone="primary" disabled={!formState.isDirty}>
            Save
          </CommandButton>
          {save.isSuccess && !formState.isDirty && <span role="status">Saved.</span>}
        </div>
      </form>
    </section>
  )
}
