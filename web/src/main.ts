import '@fontsource-variable/source-sans-3'
import '@fontsource-variable/source-serif-4'
import 'element-plus/theme-chalk/base.css'
import './common/styles/theme.css'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import App from './App.vue'
import { Problem } from './common/api'
import { arrive } from './common/fields/arrive'
import { router } from './router'
// What may wait for the network is known from the start, whichever screen is open.
import './common/change/readings'
import './work/changes'

const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      // What was refused once is refused again; only a server that did not answer is worth another try.
      retry: (count, error) => count < 2 && error instanceof Problem && error.status === 0,
    },
  },
})

createApp(App).use(router).use(VueQueryPlugin, { queryClient }).directive('arrive', arrive).mount('#app')
