import { useRouteError } from 'react-router'
import { Refusal } from '../ui/parts'

/** Failed replaces a page that couldn't be shown; the bench's data is unaffected. */
export function Failed({ whole }: { whole?: boolean }) {
  const error = useRouteError()
  return (
    <div className={whole ? 'mx-auto max-w-3xl p-6' : 'py-6'}>
      <Refusal
        error={
          new Error(
            error instanceof TypeError && /import|module/i.test(error.message)
              ? 'This page could not be loaded: the bench can’t be reached or was updated. Nothing is lost.'
              : 'This page can’t be shown. Nothing is lost.',
          )
        }
        again={() => location.reload()}
      />
    </div>
  )
}
