import { begin } from './routes.js'
import { create } from './vue.js'

void begin(() => create(location.pathname).mount('#app'))
