import { QueryClient } from '@tanstack/vue-query'
import { OFFLINE } from '@/api/client'

const ONCE_MORE_MS = 400

/** The cache of what the server said. The server is on this machine: it is asked however the network is. */
export function freshClient(): QueryClient {
  return new QueryClient({
    defaultOptions: {
      queries: {
        networkMode: 'always',
        retry: (failures, error) => failures < 1 && error.message === OFFLINE,
        retryDelay: ONCE_MORE_MS,
      },
    },
  })
}
