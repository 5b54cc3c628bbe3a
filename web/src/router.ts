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
    { path: '/:rest(.*)*', name: 'nowhere', component: () => import('./views/NowhereView.vue') },
  ],
})
