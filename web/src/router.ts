import { nextTick } from 'vue'
import { createRouter, createWebHistory } from 'vue-router'
import WatchList from './watch/WatchList.vue'

declare module 'vue-router' {
  interface RouteMeta {
    title: string
    /** What stands around it: at a desk, unless it says otherwise. */
    layout?: 'desk' | 'sheet'
    /** Of a screen for one thumb: where it hangs. On a phone only the way there stands above it. */
    back?: { path: string; name: string }
  }
}

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', meta: { title: 'First page' }, component: () => import('./start/StartPage.vue') },
    {
      path: '/account',
      meta: { title: 'Your account' },
      component: () => import('./account/AccountPage.vue'),
    },
    { path: '/watch', meta: { title: 'Watch' }, component: WatchList },
    {
      path: '/watch/:meter',
      meta: { title: 'Meter' },
      component: () => import('./watch/MeterPage.vue'),
      props: true,
    },
    { path: '/alarms', meta: { title: 'Alarms now' }, component: () => import('./watch/AlarmsNow.vue') },
    {
      path: '/alarms/performance',
      meta: { title: 'Alarm performance' },
      component: () => import('./watch/AlarmPerformance.vue'),
    },
    { path: '/families', meta: { title: 'Families' }, component: () => import('./watch/FamilyList.vue') },
    {
      path: '/families/:equipmentClass/:name',
      meta: { title: 'Family' },
      component: () => import('./watch/FamilyPage.vue'),
      props: true,
    },
    {
      path: '/work/:number(\\d+)?',
      meta: { title: 'Work' },
      component: () => import('./work/WorkPage.vue'),
      props: true,
    },
    {
      path: '/work/:number(\\d+)/checks/:id(\\d+)',
      meta: { title: 'Check sheet', back: { path: '/shift/:number', name: 'The job' } },
      component: () => import('./work/checks/CheckPage.vue'),
      props: true,
    },
    { path: '/work/week', meta: { title: 'The week' }, component: () => import('./work/week/WeekPage.vue') },
    {
      path: '/work/year',
      meta: { title: 'The year ahead' },
      component: () => import('./work/year/YearPage.vue'),
    },
    {
      path: '/work/decisions',
      meta: { title: 'Decisions' },
      component: () => import('./work/DecisionsPage.vue'),
    },
    {
      path: '/work/sheet',
      meta: { title: 'Work to take along', layout: 'sheet' },
      component: () => import('./work/WorkSheet.vue'),
    },
    {
      path: '/work/sheets',
      meta: { title: 'Sheets of orders', layout: 'sheet' },
      component: () => import('./work/OrderSheets.vue'),
    },
    {
      path: '/shift',
      meta: { title: 'Shift', back: { path: '/', name: 'First page' } },
      component: () => import('./shift/ShiftPage.vue'),
    },
    {
      path: '/shift/:number(\\d+)',
      meta: { title: 'Job', back: { path: '/shift', name: 'Shift' } },
      component: () => import('./work/JobPage.vue'),
      props: true,
    },
    {
      path: '/codes/:book?',
      meta: { title: 'Codes' },
      component: () => import('./codes/CodesPage.vue'),
      props: true,
    },
    { path: '/setup', redirect: (to) => ({ path: '/setup/assets', query: to.query }) },
    {
      path: '/setup/:section/:code?',
      meta: { title: 'Setup' },
      component: () => import('./setup/SetupPage.vue'),
      props: true,
    },
    { path: '/tally', meta: { title: 'Tally' }, component: () => import('./tally/TallyPage.vue') },
    {
      path: '/tally/backlog',
      meta: { title: 'Backlog' },
      component: () => import('./tally/BacklogPage.vue'),
    },
    {
      path: '/tally/downtime',
      meta: { title: 'Downtime' },
      component: () => import('./tally/DowntimePage.vue'),
    },
    { path: '/tally/cost', meta: { title: 'Cost' }, component: () => import('./tally/CostPage.vue') },
    { path: '/tally/mix', meta: { title: 'Work mix' }, component: () => import('./tally/MixPage.vue') },
    {
      path: '/tally/changed',
      meta: { title: 'What changed' },
      component: () => import('./tally/ChangedPage.vue'),
    },
    {
      path: '/tally/years',
      meta: { title: 'Year by year' },
      component: () => import('./tally/YearsPage.vue'),
    },
    {
      path: '/headlines',
      meta: { title: 'Headlines', layout: 'sheet' },
      component: () => import('./tally/HeadlinesPage.vue'),
    },
    { path: '/reports', redirect: (to) => ({ path: '/reports/entries', query: to.query }) },
    {
      path: '/reports/:subject',
      meta: { title: 'Reports' },
      component: () => import('./lists/ReportPage.vue'),
      props: true,
    },
    {
      path: '/:rest(.*)',
      meta: { title: 'Nothing here' },
      component: () => import('./common/frame/NotFound.vue'),
    },
  ],
})

/** The workspace of a path. */
const workspaceOf = (path: string) => path.split('/')[1] ?? ''

router.afterEach((to, from) => {
  // What is named in the address comes first, so that many tabs are told apart.
  const named = Object.values(to.params).flat().filter(Boolean).join(' · ')
  document.title = [named, to.meta.title, 'Fair Tally'].filter(Boolean).join(' · ')
  // Who uses the keyboard goes on in the new screen, not in the bar.
  if (from.matched.length && workspaceOf(to.path) !== workspaceOf(from.path))
    void nextTick(() => document.getElementById('screen')?.focus({ preventScroll: true }))
})
