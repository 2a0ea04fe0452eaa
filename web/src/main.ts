import '@fontsource-variable/atkinson-hyperlegible-next'
import './styles.css'
import { VueQueryPlugin } from '@tanstack/vue-query'
import { createPinia } from 'pinia'
import PrimeVue, { defaultOptions, type PrimeVueLocaleOptions } from 'primevue/config'
import ConfirmationService from 'primevue/confirmationservice'
import ToastService from 'primevue/toastservice'
import { createApp } from 'vue'
import { kept } from './api/asked'
import App from './App.vue'
import { loadAnew } from './frame/newer'
import { router } from './router'
import { theme } from './theme'

// Weeks begin where the person's language begins them; on Monday where the browser cannot say.
const week = new Intl.Locale(navigator.language) as Intl.Locale & { getWeekInfo?(): { firstDay: number } }
const firstDayOfWeek = (week.getWeekInfo?.().firstDay ?? 1) % 7

loadAnew(router)

createApp(App)
  .use(createPinia())
  .use(router)
  .use(VueQueryPlugin, { queryClient: kept })
  .use(PrimeVue, {
    theme: { preset: theme, options: { darkModeSelector: '.dark' } },
    locale: { ...defaultOptions.locale, firstDayOfWeek } as PrimeVueLocaleOptions,
  })
  .use(ToastService)
  .use(ConfirmationService)
  .mount('#app')
