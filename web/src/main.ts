import '@fontsource-variable/archivo/wdth.css'
import '@fontsource-variable/public-sans/index.css'
import 'element-plus/es/components/message/style/css'
import './look/tokens.css'
import './look/lists'
import { createPinia } from 'pinia'
import { createApp } from 'vue'
import App from './App.vue'
import { router } from './router'

createApp(App).use(createPinia()).use(router).mount('#app')
