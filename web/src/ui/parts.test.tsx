// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen } from '@testing-library/react'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { Refused } from '../api/client'
import { Query } from './parts'

afterEach(cleanup)

const show = (of: { data?: string; error?: unknown; isPending?: boolean }) => {
  const refetch = vi.fn()
  render(
    <Query of={{ data: of.data, error: of.error ?? null, isPending: of.isPending ?? false, refetch }} what="the jobs">
      {(d) => <p>{d}</p>}
    </Query>,
  )
  return refetch
}
const failed = (status: number) => new Refused({ message: 'The bench failed.', kept: 'Nothing was changed.', do: 'Try again.' }, status)

describe('what is asked of the bench', () => {
  it('is on its way', () => {
    show({ isPending: true })
    expect(screen.getByRole('status').textContent).toContain('Getting the jobs')
  })
  it('says why it is not there, and can be asked for again', () => {
    const again = show({ error: failed(500) })
    expect(screen.getByRole('alert').textContent).toContain('The bench failed.')
    fireEvent.click(screen.getByRole('button', { name: 'Try again' }))
    expect(again).toHaveBeenCalledOnce()
  })
  it('stays where a later look fails, which is said', () => {
    show({ data: 'what there was', error: failed(500) })
    expect(screen.getByText('what there was')).toBeTruthy()
    expect(screen.getByRole('alert').textContent).toContain('Nothing was changed.')
  })
  it('leaves to the page that the bench cannot be reached', () => {
    show({ data: 'what there was', error: failed(0) })
    expect(screen.getByText('what there was')).toBeTruthy()
    expect(screen.queryByRole('alert')).toBeNull()
  })
})
