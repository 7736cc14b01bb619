import '@fontsource/figtree/400.css'
import '@fontsource/figtree/500.css'
import '@fontsource/figtree/600.css'
import '@fontsource/figtree/700.css'
import '@fontsource/spline-sans-mono/400.css'
import '@fontsource/spline-sans-mono/500.css'
import './style.css'

import { createPinia } from 'pinia'
import { createApp } from 'vue'

import App from './App.vue'
import { useAccess } from './common/access'
import { retryImages } from './common/images'
import { router } from './router'

retryImages()
const app = createApp(App).use(createPinia())
const access = useAccess()
await access.load()
router.beforeEach((to) => (to.meta.builds && !access.out && !access.builds ? { name: 'shelf' } : true))
app.use(router).mount('#app')
