import type { ButtonHTMLAttributes, Ref } from 'react'

type Props = ButtonHTMLAttributes<HTMLButtonElement> & {
  /** of is the command that the button sends; while it is on its way the button waits. */
  of: { isPending: boolean }
  tone?: 'primary' | 'error' | 'ghost' | 'plain'
  size?: 'sm' | 'lg'
  ref?: Ref<HTMLElement>
}

const tones = { primary: 'btn-primary', error: 'btn-error', ghost: 'btn-ghost', plain: '' }

/** CommandButton sends a command once, however often it is tapped. */
export function CommandButton({ of, tone = 'plain', size, className = '', disabled, ref, children, ...rest }: Props) {
  return (
    <button
      ref={ref as Ref<HTMLButtonElement>}
      type="button"
      {...rest}
      className={`btn ${tones[tone]} ${size ? `btn-${size}` : ''} ${className}`}
      disabled={disabled || of.isPending}
      aria-busy={of.isPending}
    >
      {of.isPending && <span className="loading loading-xs" aria-hidden />}
      {children}
    </button>
  )
}
