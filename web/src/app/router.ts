import { createRouter, createWebHistory } from 'vue-router'

declare module 'vue-router' {
  interface RouteMeta {
    place: 'studies' | 'intake' | 'codebook' | 'topline' | 'claims' | 'none'
  }
}

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', redirect: '/studies' },
    { path: '/studies', component: () => import('@/places/studies'), meta: { place: 'studies' } },
    { path: '/intake', component: () => import('@/places/intake'), meta: { place: 'intake' } },
    { path: '/studies/:study(\\d+)', component: () => import('@/places/topline'), meta: { place: 'topline' } },
    { path: '/studies/:study(\\d+)/check', component: () => import('@/places/check'), meta: { place: 'intake' } },
    { path: '/studies/:study(\\d+)/codebook', component: () => import('@/places/codebook'), meta: { place: 'codebook' } },
    { path: '/studies/:study(\\d+)/responses', component: () => import('@/places/responses'), meta: { place: 'codebook' } },
    { path: '/studies/:study(\\d+)/claims', component: () => import('@/places/claims'), meta: { place: 'claims' } },
    { path: '/:rest(.*)*', component: () => import('./NotFound.vue'), meta: { place: 'none' } },
  ],
  scrollBehavior(to, _from, saved) {
    if (saved) return saved
    if (to.hash) return false // the page scrolls there itself once its questions are in
    return { top: 0 }
  },
})
