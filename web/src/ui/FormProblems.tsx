import { useFormState, type FieldErrors } from 'react-hook-form'

/** FormProblems says beside the button what keeps a form from being sent, wherever on the page it stands. */
export function FormProblems() {
  const { errors } = useFormState()
  const said = [...new Set(messages(errors))]
  if (said.length === 0) return null
  return (
    <div role="alert" className="border-l-4 border-error pl-3">
      <p className="font-semibold">Not sent yet. Please look at:</p>
      <ul className="ml-5 list-disc">
        {said.map((m) => (
          <li key={m}>{m}</li>
        ))}
      </ul>
    </div>
  )
}

/** messages are those of all fields, however deep they lie. */
function messages(errors: FieldErrors): string[] {
  return Object.values(errors).flatMap((e) => {
    if (!e || typeof e !== 'object') return []
    if (typeof e.message === 'string') return [e.message]
    return messages(e as FieldErrors)
  })
}
