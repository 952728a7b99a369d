import { zodResolver } from '@hookform/resolvers/zod'
import type { ReactNode } from 'react'
import { useForm, useWatch } from 'react-hook-form'
import { z } from 'zod'
import { CommandButton } from './CommandButton'
import { Refusal } from './parts'

const schema = z.object({ text: z.string().trim().min(1).max(500) })

/** OneField is a form of one line of text with its button; Escape leaves it. */
export function OneField(props: {
  label: string
  placeholder?: string
  unit?: string
  verb: ReactNode
  /** verbLabel says what the button does, where verb is no words. */
  verbLabel?: string
  /** focused: whoever opened the form came to type. */
  focused?: boolean
  large?: boolean
  tone?: 'primary' | 'plain'
  of: { isPending: boolean }
  error?: unknown
  className?: string
  /** onDone gets the text, and what empties the field again. */
  onDone: (text: string, clear: () => void) => void
  onLeave?: () => void
}) {
  const { label, placeholder, unit, verb, verbLabel, focused, large, tone = 'primary', of, error, className = '', onDone, onLeave } = props
  const { register, handleSubmit, control, reset } = useForm({ resolver: zodResolver(schema), defaultValues: { text: '' } })
  const empty = useWatch({ control, name: 'text' }).trim() === ''
  return (
    <form className={`flex flex-col gap-2 ${className}`} onSubmit={(e) => void handleSubmit((f) => onDone(f.text, () => reset()))(e)} onKeyDown={(e) => e.key === 'Escape' && onLeave?.()}>
      <div className="flex gap-2">
        <label className={`input flex-1 ${large ? '' : 'input-sm'}`}>
          <input autoFocus={focused} placeholder={placeholder} aria-label={label} maxLength={500} {...register('text')} />
          {unit && <span className="text-secondary">{unit}</span>}
        </label>
        <CommandButton of={of} type="submit" size={large ? undefined : 'sm'} tone={tone} disabled={empty} aria-label={verbLabel}>
          {verb}
        </CommandButton>
      </div>
      {Boolean(error) && <Refusal error={error} />}
    </form>
  )
}
