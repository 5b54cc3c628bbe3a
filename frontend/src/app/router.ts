import { createRouter, createWebHistory } from 'vue-router'
import { ROOT } from '@/api/root'
import { setTitle } from '@/shared/lib/title'
import BenchView from '@/features/frames/BenchView.vue'

/** A whole number in the address, or null. */
function seedIn(given: unknown): number | null {
  return typeof given === 'string' && /^\d{1,10}$/.test(given) ? Number(given) : null
}

function textIn(given: unknown): string | null {
  return typeof given === 'string' && given ? given : null
}

export const router = createRouter({
  history: createWebHistory(`${ROOT}/`),
  routes: [
    { path: '/', name: 'bench', component: BenchView },
    {
      path: '/frames/:id(\\d+)',
      name: 'frame',
      component: () => import('@/features/frames/MapView.vue'),
      props: (route) => ({ id: Number(route.params.id) }),
    },
    {
      path: '/visits/:id(\\d+)',
      name: 'visit',
      component: () => import('@/features/visit/VisitView.vue'),
      props: (route) => ({ id: Number(route.params.id) }),
    },
    {
      path: '/visits/:id(\\d+)/hands/:step([a-z_]+)',
      name: 'hands',
      component: () => import('@/features/hands/HandsView.vue'),
      props: (route) => ({ id: Number(route.params.id), step: route.params.step }),
    },
    {
      path: '/visits/:id(\\d+)/tray',
      name: 'tray',
      component: () => import('@/features/tray/TrayView.vue'),
      props: (route) => ({ id: Number(route.params.id) }),
    },
    {
      path: '/compare/:before(\\d+)/:after(\\d+)',
      name: 'compare',
      component: () => import('@/features/compare/CompareView.vue'),
      props: (route) => ({
        before: Number(route.params.before),
        after: Number(route.params.after),
        works: Number(route.query.works ?? 16),
      }),
    },
    {
      path: '/bodies',
      name: 'bodies',
      component: () => import('@/features/bodies/BodiesView.vue'),
      props: (route) => ({ frame: route.query.frame ? Number(route.query.frame) : null }),
    },
    {
      path: '/bodies/:id(\\d+)',
      name: 'body',
      component: () => import('@/features/bodies/BodyPage.vue'),
      props: (route) => ({ id: Number(route.params.id), edit: route.query.edit === 'yes' }),
    },
    {
      path: '/light',
      name: 'light',
      component: () => import('@/features/frames/LightView.vue'),
      props: (route) => ({ focal: Number(route.query.focal) || null, f: Number(route.query.f) || null }),
    },
    {
      path: '/kit',
      name: 'kit',
      component: () => import('@/features/kit/KitView.vue'),
      props: (route) => ({
        add: route.query.add ? String(route.query.add) : null,
        visit: route.query.visit ? Number(route.query.visit) : null,
        find: route.query.find ? String(route.query.find) : '',
      }),
    },
    {
      path: '/pictures',
      name: 'pictures',
      component: () => import('@/features/pictures/PicturesView.vue'),
      props: (route) => ({
        body: route.query.body ? Number(route.query.body) : null,
        frame: route.query.frame ? Number(route.query.frame) : null,
      }),
    },
    {
      path: '/pictures/:id(\\d+)',
      name: 'picture-set',
      component: () => import('@/features/pictures/PictureSetView.vue'),
      props: (route) => ({ id: Number(route.params.id) }),
    },
    {
      path: '/odds',
      name: 'odds',
      component: () => import('@/features/record/OddsView.vue'),
      props: (route) => ({ body: route.query.body ? Number(route.query.body) : null }),
    },
    { path: '/calendar', name: 'calendar', component: () => import('@/features/record/CalendarView.vue') },
    {
      path: '/share',
      name: 'share',
      component: () => import('@/features/sharing/ShareView.vue'),
      props: (route) => ({ visit: route.query.visit ? Number(route.query.visit) : null }),
    },
    {
      path: '/practice',
      name: 'practice',
      component: () => import('@/features/practice/PracticeView.vue'),
    },
    {
      path: '/practice/moves',
      name: 'practice-moves',
      component: () => import('@/features/practice/MovePractice.vue'),
      props: (route) => ({ seed: seedIn(route.query.seed) }),
    },
    {
      path: '/practice/places',
      name: 'practice-places',
      component: () => import('@/features/practice/PlacePractice.vue'),
      props: (route) => ({ seed: seedIn(route.query.seed), level: seedIn(route.query.level) }),
    },
    {
      path: '/practice/frames',
      name: 'practice-frames',
      component: () => import('@/features/practice/FramePractice.vue'),
      props: (route) => ({ seed: seedIn(route.query.seed), topic: textIn(route.query.topic) }),
    },
    {
      path: '/practice/hand',
      name: 'practice-hand',
      component: () => import('@/features/practice/HandPractice.vue'),
      props: (route) => ({ seed: seedIn(route.query.seed), topic: textIn(route.query.topic) }),
    },
    {
      path: '/practice/clean',
      name: 'practice-clean',
      component: () => import('@/features/practice/CleanPractice.vue'),
      props: (route) => ({ seed: seedIn(route.query.seed), visit: seedIn(route.query.visit) }),
    },
    { path: '/jobs', name: 'jobs', component: () => import('@/features/jobs/JobsView.vue') },
    { path: '/costs', name: 'costs', component: () => import('@/features/kit/CostsView.vue') },
    {
      path: '/schools',
      name: 'schools',
      component: () => import('@/features/settings/SettingsView.vue'),
      props: (route) => ({ section: route.query.section ? String(route.query.section) : null }),
    },
    { path: '/:rest(.*)*', name: 'nowhere', component: () => import('./NowhereView.vue') },
  ],
})

/** What stands in the tab of the browser: the room, until a page tells more. */
const TITLES: Record<string, string> = {
  bodies: 'Cameras',
  body: 'Camera',
  frame: 'Frame',
  visit: 'Visit',
  hands: 'Step by step',
  tray: 'Tray',
  compare: 'Before and after',
  light: 'Light page',
  kit: 'Kit',
  costs: 'Costs',
  pictures: 'Pictures',
  'picture-set': 'Pictures',
  odds: 'Odds',
  calendar: 'Calendar',
  share: 'Share',
  practice: 'Practice',
  'practice-moves': 'Practice',
  'practice-places': 'Practice',
  'practice-frames': 'Practice',
  'practice-hand': 'Practice',
  'practice-clean': 'Practice',
  jobs: 'Jobs',
  schools: 'Settings',
  nowhere: 'No such page',
}
router.afterEach((to) => setTitle(TITLES[String(to.name)] ?? 'Bench'))
