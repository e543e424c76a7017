import { ref } from 'vue'
import { createRouter, createWebHistory, START_LOCATION } from 'vue-router'

import Topline from '@/views/topline'

import { furnishedWith } from './later'

declare module 'vue-router' {
  interface RouteMeta {
    place: 'studies' | 'intake' | 'codebook' | 'topline' | 'claims' | 'shares' | 'quick' | 'tables' | 'report' | 'guide' | 'account' | 'none'
    /** It can be seen by who has not signed in. */
    open?: boolean
  }
}

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', redirect: '/studies' },
    { path: '/studies', component: furnishedWith(() => import('@/views/studies')), meta: { place: 'studies' } },
    { path: '/intake', component: furnishedWith(() => import('@/views/intake')), meta: { place: 'intake' } },
    { path: '/studies/:study(\\d+)', component: Topline, meta: { place: 'topline' } },
    { path: '/studies/:study(\\d+)/check', component: furnishedWith(() => import('@/views/check')), meta: { place: 'intake' } },
    { path: '/studies/:study(\\d+)/codebook', component: furnishedWith(() => import('@/views/codebook')), meta: { place: 'codebook' } },
    { path: '/studies/:study(\\d+)/responses', component: furnishedWith(() => import('@/views/responses')), meta: { place: 'codebook' } },
    { path: '/studies/:study(\\d+)/claims', component: furnishedWith(() => import('@/views/claims')), meta: { place: 'claims' } },
    { path: '/studies/:study(\\d+)/tables', component: furnishedWith(() => import('@/views/tables')), meta: { place: 'tables' } },
    { path: '/studies/:study(\\d+)/report', component: furnishedWith(() => import('@/views/report')), meta: { place: 'report' } },
    { path: '/shares', component: furnishedWith(() => import('@/views/shares')), meta: { place: 'shares' } },
    { path: '/quick', component: furnishedWith(() => import('@/views/quick')), meta: { place: 'quick' } },
    { path: '/guide/:page?', component: furnishedWith(() => import('@/views/guide')), meta: { place: 'guide' } },
    { path: '/studies/:study(\\d+)/trail', component: furnishedWith(() => import('@/views/people/TrailPage.vue')), meta: { place: 'codebook' } },
    { path: '/account/trail', component: furnishedWith(() => import('@/views/people/TrailPage.vue')), meta: { place: 'account' } },
    { path: '/account', component: furnishedWith(() => import('@/views/people')), meta: { place: 'account' } },
    { path: '/invited/:token', component: furnishedWith(() => import('@/views/people/InvitedPage.vue')), meta: { place: 'none', open: true } },
    { path: '/:rest(.*)*', component: furnishedWith(() => import('./NotFound.vue')), meta: { place: 'none' } },
  ],
  scrollBehavior(to, from, saved) {
    if (saved) return saved
    if (from === START_LOCATION) return false // it begins on top
    if (to.hash) return false // the page scrolls there itself once its questions are in
    return { top: 0 }
  },
})

/** Where a place could not be fetched, its whole page is asked for, which may be a newer one;
 * where that was it already, the page says so. */
export const notFetched = ref(false)
router.afterEach((_to, _from, failure) => {
  if (!failure) notFetched.value = false
})
router.onError((_error, to) => {
  if (router.currentRoute.value === START_LOCATION) notFetched.value = true
  else location.assign(to.fullPath)
})
