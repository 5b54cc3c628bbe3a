import { createRouter, createWebHistory } from 'vue-router'
import BenchView from './views/BenchView.vue'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'bench', component: BenchView },
    {
      path: '/frames/:id(\\d+)',
      name: 'frame',
      component: () => import('./views/MapView.vue'),
      props: (route) => ({ id: Number(route.params.id) }),
    },
    {
      path: '/visits/:id(\\d+)',
      name: 'visit',
      component: () => import('./views/VisitView.vue'),
      props: (route) => ({ id: Number(route.params.id) }),
    },
    {
      path: '/visits/:id(\\d+)/hands/:step([a-z_]+)',
      name: 'hands',
      component: () => import('./views/HandsView.vue'),
      props: (route) => ({ id: Number(route.params.id), step: route.params.step }),
    },
    {
      path: '/compare/:before(\\d+)/:after(\\d+)',
      name: 'compare',
      component: () => import('./views/CompareView.vue'),
      props: (route) => ({
        before: Number(route.params.before), after: Number(route.params.after), works: Number(route.query.works ?? 16),
      }),
    },
    {
      path: '/bodies',
      name: 'bodies',
      component: () => import('./views/BodiesView.vue'),
      props: (route) => ({ frame: route.query.frame ? Number(route.query.frame) : null }),
    },
    {
      path: '/bodies/:id(\\d+)',
      name: 'body',
      component: () => import('./views/BodyPage.vue'),
      props: (route) => ({ id: Number(route.params.id) }),
    },
    {
      path: '/light',
      name: 'light',
      component: () => import('./views/LightView.vue'),
      props: (route) => ({ focal: Number(route.query.focal) || null, f: Number(route.query.f) || null }),
    },
    { path: '/kit', name: 'kit', component: () => import('./views/KitView.vue') },
    { path: '/jobs', name: 'jobs', component: () => import('./views/JobsView.vue') },
    { path: '/costs', name: 'costs', component: () => import('./views/CostsView.vue') },
    { path: '/schools', name: 'schools', component: () => import('./views/SchoolsView.vue') },
    { path: '/:rest(.*)*', name: 'nowhere', component: () => import('./views/NowhereView.vue') },
  ],
})
