import { useMutation, useQueryClient, type QueryClient, type UseMutationResult } from '@tanstack/react-query'
import { useCallback, useRef } from 'react'
import { keyed, type Client, type Refused } from './client'
import { newKey } from './key'

/** Told are callbacks after a command, even if the page has changed by then. */
type Told<In, Out> = {
  onSuccess?: (out: Out, input: In, cache: QueryClient) => unknown
  onError?: (error: Refused, input: In, cache: QueryClient) => unknown
}

/** Command is a change that is sent to the bench. */
export type Command<In, Out> = Pick<UseMutationResult<Out, Refused, In>, 'data' | 'error' | 'isPending' | 'isSuccess' | 'reset'> & {
  /** run sends it, unless it is already pending; then is called once it is done, if the component is still mounted. */
  run: (input: In, then?: (out: Out) => void) => void
  runAsync: (input: In) => Promise<Out>
}

/** describe identifies an input; a file by its name, size and date. */
const describe = (input: unknown) =>
  JSON.stringify(input, (_, v: unknown) => (v instanceof File ? [v.name, v.size, v.lastModified] : v instanceof Blob ? newKey() : v)) ?? ''

/**
 * useCommand sends changes to the bench. Each run is one action of the user and has one key: a second tap while it is on its way
 * is the same action, and so is trying again after it is not known what became of it.
 */
export function useCommand<In, Out>(send: (input: In, client: Client) => Promise<Out>, told: Told<In, Out> = {}): Command<In, Out> {
  const cache = useQueryClient()
  const busy = useRef(new Set<string>())
  const open = useRef(new Map<string, string>()) // keys of commands with an unknown outcome, by input
  const mutation = useMutation<Out, Refused, In>({
    mutationFn: (input) => {
      const what = describe(input)
      const key = open.current.get(what) ?? newKey()
      open.current.set(what, key)
      return send(input, keyed(key))
    },
    onSuccess: (out, input) => {
      open.current.delete(describe(input))
      return told.onSuccess?.(out, input, cache)
    },
    onError: (error, input) => {
      if (!error.unanswered) open.current.delete(describe(input))
      return told.onError?.(error, input, cache)
    },
  })
  const { mutateAsync } = mutation
  const run = useCallback(
    (input: In, then?: (out: Out) => void) => {
      const what = describe(input)
      if (busy.current.has(what)) return
      busy.current.add(what)
      mutateAsync(input)
        .then((out) => then?.(out))
        .catch(() => {}) // the command's error says it
        .finally(() => busy.current.delete(what))
    },
    [mutateAsync],
  )
  const { data, error, isPending, isSuccess, reset } = mutation
  return { data, error, isPending, isSuccess, reset, run, runAsync: mutateAsync }
}
