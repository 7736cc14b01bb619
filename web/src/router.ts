import { createRouter, createWebHistory } from 'vue-router'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'shelf', component: () => import('./shelf/ShelfView.vue'), meta: { title: 'Shelf' } },
    { path: '/pieces', name: 'pieces', component: () => import('./shelf/PiecesView.vue'), meta: { title: 'Pieces' } },
    { path: '/drafts', name: 'drafts', component: () => import('./shelf/DraftsView.vue'), meta: { title: 'Drafts', builds: true } },
    { path: '/bench/:id', name: 'bench', component: () => import('./bench/BenchView.vue'), meta: { title: 'Bench', builds: true } },
    { path: '/desk/:id', name: 'desk', component: () => import('./desk/DeskView.vue'), meta: { title: 'Desk' } },
    { path: '/media', name: 'media', component: () => import('./media/MediaView.vue'), meta: { title: 'Media' } },
    { path: '/renders', name: 'renders', component: () => import('./renders/RendersView.vue'), meta: { title: 'Renders' } },
    { path: '/people', name: 'people', component: () => import('./people/PeopleView.vue'), meta: { title: 'People', builds: true } },
    { path: '/:rest(.*)', redirect: '/' },
  ],
})
