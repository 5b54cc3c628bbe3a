import { useQueryClient } from '@tanstack/vue-query'
import { inject, onScopeDispose, provide, ref, watchEffect, type InjectionKey, type Ref } from 'vue'
import { useRouter } from 'vue-router'
import { queries } from '@/api/queries'
import { useNotices } from './useNotices'
import { useUploads, type Goal, type Upload } from './useUploads'

/** A measured frame that waits to be looked at. */
export interface Landed {
  frameId: number
  name: string
  visitId: number | null
  /** The camera whose visit it joined; empty while it is not clear whose it is. */
  camera: string
}

export interface Intake {
  uploads: Ref<Upload[]>
  landed: Ref<Landed[]>
  /** Where files go that are dropped on this page; the page in sight says so. */
  aim: Ref<Goal>
  take: (files: Iterable<File>) => void
  dismiss: (key: number) => void
  seen: (frameId: number) => void
}

export const INTAKE: InjectionKey<Intake> = Symbol('intake')
const ANY: Goal = { find: true }

/** Takes in frames for the whole page: they go on being sent and measured wherever one goes.
 *
 * One file dropped leads to its visit, or to the question whose it is, unless one went elsewhere
 * meanwhile; then, and for several at once, the tray tells of each. */
export function provideIntake(): Intake {
  const client = useQueryClient()
  const router = useRouter()
  const { tell } = useNotices()
  const landed = ref<Landed[]>([])
  const aim = ref<Goal>(ANY)
  let alone = false
  let from = ''

  const { uploads, add, dismiss } = useUploads((frameId, _isNew, goal) => void arrived(frameId, goal))

  async function arrived(frameId: number, goal: Goal): Promise<void> {
    void client.invalidateQueries({ queryKey: ['frames'] })
    if (goal.visit !== undefined) {
      void client.invalidateQueries({ queryKey: queries.visit(goal.visit).queryKey })
      return
    }
    void client.invalidateQueries({ queryKey: ['visits'] })
    try {
      const found = await client.fetchQuery({ ...queries.frame(frameId), staleTime: 0 })
      const on = found.visits[0] ?? null
      const here: Landed = {
        frameId,
        name: found.frame.name,
        visitId: on?.visit_id ?? null,
        camera: on?.body_name ?? '',
      }
      tell(`${here.name} is measured.`)
      if (alone && router.currentRoute.value.fullPath === from) void router.push(placeOf(here))
      else landed.value = [...landed.value, here]
    } catch {
      landed.value = [...landed.value, { frameId, name: 'Frame', visitId: null, camera: '' }]
    }
  }

  function take(files: Iterable<File>): void {
    const all = [...files]
    alone = all.length === 1 && uploads.value.length === 0
    from = router.currentRoute.value.fullPath
    add(all, { ...aim.value })
  }

  function seen(frameId: number): void {
    landed.value = landed.value.filter((l) => l.frameId !== frameId)
  }

  const intake = { uploads, landed, aim, take, dismiss, seen }
  provide(INTAKE, intake)
  return intake
}

export function placeOf(landed: Landed) {
  return landed.visitId === null
    ? { name: 'frame', params: { id: landed.frameId } }
    : { name: 'visit', params: { id: landed.visitId } }
}

/** The page's one intake. */
export function useIntake(): Intake {
  const intake = inject(INTAKE, null)
  if (!intake) throw new Error('no intake is provided')
  return intake
}

/** While this view is in sight, files dropped anywhere on it go where `goal` says. */
export function useAim(goal: () => Goal | null): Intake {
  const intake = useIntake()
  watchEffect(() => {
    intake.aim.value = goal() ?? ANY
  })
  onScopeDispose(() => {
    intake.aim.value = ANY
  })
  return intake
}
