import { renderToString } from 'vue/server-renderer'
import { create } from './vue.js'

export const render = (path) => renderToString(create(path))
