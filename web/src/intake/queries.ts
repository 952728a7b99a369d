import { useQuery } from '@tanstack/react-query'
import { client, type Client, data, type Schemas } from '../api/client'
import { path, useJobCommand } from '../api/cache'

export const useOpenJob = () => useJobCommand((body: Schemas['Intake'], c: Client) => data(c.POST('/api/jobs', { body })))

export const useAmendJob = (id: string) =>
  useJobCommand((body: Schemas['Change'], c: Client) => data(c.PATCH('/api/jobs/{job}', { ...path(id), body })))

export const useAddTrial = (id: string) =>
  useJobCommand((body: { name: string; drive?: Schemas['DriveIn']; drive_id?: string; relation?: Schemas['Relation'] }, c: Client) => data(c.POST('/api/jobs/{job}/setups', { ...path(id), body })))

/** useEarlier lists the earlier jobs of this job's computer. */
export const useEarlier = (id: string, enabled: boolean) =>
  useQuery({ queryKey: ['job', id, 'earlier'], queryFn: () => data(client.GET('/api/jobs/{job}/earlier', path(id))), enabled, staleTime: 60_000 })

export const useTakeEarlier = (id: string) => useJobCommand((job: string, c: Client) => data(c.POST('/api/jobs/{job}/earlier', { ...path(id), body: { job } })))

export const useAddOther = (id: string) =>
  useJobCommand((body: { drive: Schemas['DriveIn']; holds?: string }, c: Client) => data(c.POST('/api/jobs/{job}/other-drives', { ...path(id), body })))

export const useDropOther = (id: string) =>
  useJobCommand((drive: string, c: Client) => data(c.DELETE('/api/jobs/{job}/other-drives/{drive}', { params: { path: { job: id, drive } } })))
