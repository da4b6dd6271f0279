import { createRouter, createWebHistory } from 'vue-router'
import WatchList from './watch/WatchList.vue'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', component: () => import('./start/StartPage.vue') },
    { path: '/watch', component: WatchList },
    { path: '/watch/:meter', component: () => import('./watch/MeterPage.vue'), props: true },
    { path: '/alarms', component: () => import('./watch/AlarmsNow.vue') },
    { path: '/alarms/performance', component: () => import('./watch/AlarmPerformance.vue') },
    { path: '/families', component: () => import('./watch/FamilyList.vue') },
    {
      path: '/families/:equipmentClass/:name',
      component: () => import('./watch/FamilyPage.vue'),
      props: true,
    },
    { path: '/work/:number(\\d+)?', component: () => import('./work/WorkPage.vue'), props: true },
    { path: '/codes/:book?', component: () => import('./codes/CodesPage.vue'), props: true },
    { path: '/setup', redirect: (to) => ({ path: '/setup/assets', query: to.query }) },
    {
      path: '/setup/:section/:code?',
      component: () => import('./setup/SetupPage.vue'),
      props: true,
    },
    { path: '/tally', component: () => import('./tally/TallyPage.vue') },
    { path: '/:rest(.*)', component: () => import('./common/frame/NotFound.vue') },
  ],
})
