import { useQuery } from '@tanstack/react-query'
import { client, type Client, data, type Schemas, type Template } from '../api/client'
import { keys, path, useJobCommand } from '../api/cache'
import { useCommand } from '../api/command'

export const useTemplates = () => useQuery({ queryKey: keys.templates, queryFn: () => data(client.GET('/api/templates')) })

export const useCatalogue = () => useQuery({ queryKey: keys.catalogue, queryFn: () => data(client.GET('/api/catalogue')) })

export const useUseTemplate = (id: string) =>
  useJobCommand((template: string, c: Client) => data(c.PUT('/api/jobs/{job}/template', { ...path(id), body: { template } })))

/** useSavePlan saves all that was changed in the form of the plan at once. */
export const useSavePlan = (id: string) =>
  useJobCommand((body: { tests?: Record<string, Schemas["TestChange"]>; answers?: Record<string, number>; order?: string[]; headline?: string }, c: Client) =>
    data(c.PATCH('/api/jobs/{job}/plan', { ...path(id), body })),
  )

export const useAddTest = (id: string) =>
  useJobCommand((body: Schemas['NewTest'], c: Client) => data(c.POST('/api/jobs/{job}/tests', { ...path(id), body })))

export const useTakeOutTest = (id: string) =>
  useJobCommand((test: string, c: Client) => data(c.DELETE('/api/jobs/{job}/tests/{test}', { params: { path: { job: id, test } } })))

/** useTemplateCommand is a command whose answer is the list of templates as it is afterwards. */
const useTemplateCommand = <In>(send: (input: In, c: Client) => Promise<Template[]>) =>
  useCommand<In, Template[]>(send, { onSuccess: (list, _, cache) => cache.setQueryData(keys.templates, list) })

export const useSaveTemplate = () => useTemplateCommand((body: { job: string; name: string }, c) => data(c.POST('/api/templates', { body })))

export const useDropTemplate = () =>
  useTemplateCommand((template: string, c) => data(c.DELETE('/api/templates/{template}', { params: { path: { template } } })))

export const useUndoTemplate = (id: string) => useJobCommand((_: void, c: Client) => data(c.DELETE('/api/jobs/{job}/template', path(id))))
