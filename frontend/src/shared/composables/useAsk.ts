import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, type ComputedRef } from 'vue'
import type { Query } from '@/api/queries'

const WHEN_AWAY_MS = 3000
export interface AskOptions<T> {
  /** How long until it is asked for again; false for never. After a failure it is, in any case. */
  everyMs?: (value: T | undefined) => number | false
  /** While something else is asked for, show what was there before. */
  keeps?: boolean
}

/** What the server says, kept in the cache of the whole page; null until it is known.
 *
 * `asks` gives the query for the state the view is in, or null while there is nothing to ask. */
export function useAsk<T>(asks: () => Query<T> | null, options: AskOptions<T> = {}) {
  const client = useQueryClient()
  const query = useQuery<T>(() => {
    const now = asks()
    return {
      queryKey: now?.queryKey ?? ['nothing'],
      queryFn: now?.queryFn ?? (() => Promise.reject(new Error('nothing is asked'))),
      enabled: now !== null,
      placeholderData: options.keeps ? keepPreviousData : undefined,
      refetchInterval: (current) =>
        current.state.status === 'error' ? WHEN_AWAY_MS : (options.everyMs?.(current.state.data) ?? false),
    }
  })
  const value: ComputedRef<T | null> = computed(() => (asks() === null ? null : (query.data.value ?? null)))
  const error = computed(() => (asks() === null ? '' : (query.error.value?.message ?? '')))

  /** Ask anew from now on: an answer still on its way may be older than what one was told of. */
  async function again(): Promise<void> {
    const queryKey = asks()?.queryKey
    if (queryKey) await client.cancelQueries({ queryKey, exact: true })
    await query.refetch()
  }
  return { value, error, again }
}
