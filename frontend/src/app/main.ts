import '@fontsource-variable/inter'
import 'primeicons/primeicons.css'
import { VueQueryPlugin } from '@tanstack/vue-query'
import PrimeVue from 'primevue/config'
import ConfirmationService from 'primevue/confirmationservice'
import { createApp } from 'vue'
import App from './App.vue'
import { freshClient } from './queryClient'
import { router } from './router'
import '@/shared/drawings/drawings.css'
import './style.css'
import { theme } from './theme'

createApp(App)
  .use(router)
  .use(VueQueryPlugin, { queryClient: freshClient() })
  .use(PrimeVue, { theme })
  .use(ConfirmationService)
  .mount('#app')
