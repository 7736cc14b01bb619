import { createRouter, createWebHistory } from 'vue-router'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'shelf', component: () => import('./views/ShelfView.vue'), meta: { title: 'Shelf' } },
    { path: '/bench/:id', name: 'bench', component: () => import('./views/BenchView.vue'), meta: { title: 'Bench' } },
    { path: '/media', name: 'media', component: () => import('./views/MediaView.vue'), meta: { title: 'Media' } },
    { path: '/renders', name: 'renders', component: () => import('./views/RendersView.vue'), meta: { title: 'Renders' } },
    { path: '/:rest(.*)', redirect: '/' },
  ],
})

router.afterEach((to) => {
  document.title = `${String(to.meta.title ?? '')} · Ivy Pocket`
})
