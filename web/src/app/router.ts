import { createRouter, createWebHistory } from 'vue-router'

declare module 'vue-router' {
  interface RouteMeta {
    place: 'studies' | 'intake' | 'codebook' | 'topline' | 'claims' | 'shares' | 'quick' | 'report' | 'none'
  }
}

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', redirect: '/studies' },
    { path: '/studies', component: () => import('@/views/studies'), meta: { place: 'studies' } },
    { path: '/intake', component: () => import('@/views/intake'), meta: { place: 'intake' } },
    { path: '/studies/:study(\\d+)', component: () => import('@/views/topline'), meta: { place: 'topline' } },
    { path: '/studies/:study(\\d+)/check', component: () => import('@/views/check'), meta: { place: 'intake' } },
    { path: '/studies/:study(\\d+)/codebook', component: () => import('@/views/codebook'), meta: { place: 'codebook' } },
    { path: '/studies/:study(\\d+)/responses', component: () => import('@/views/responses'), meta: { place: 'codebook' } },
    { path: '/studies/:study(\\d+)/claims', component: () => import('@/views/claims'), meta: { place: 'claims' } },
    { path: '/studies/:study(\\d+)/report', component: () => import('@/views/report'), meta: { place: 'report' } },
    { path: '/shares', component: () => import('@/views/shares'), meta: { place: 'shares' } },
    { path: '/quick', component: () => import('@/views/quick'), meta: { place: 'quick' } },
    { path: '/:rest(.*)*', component: () => import('./NotFound.vue'), meta: { place: 'none' } },
  ],
  scrollBehavior(to, _from, saved) {
    if (saved) return saved
    if (to.hash) return false // the page scrolls there itself once its questions are in
    return { top: 0 }
  },
})
