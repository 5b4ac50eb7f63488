import { createSSRApp, h, onMounted, ref } from 'vue'
import { paths, route, routes } from './routes.js'

export const create = (first) =>
  createSSRApp({
    setup() {
      const path = ref(first)
      const beat = ref(0)
      onMounted(() => {
        route((p) => (path.value = p))
        setInterval(() => beat.value++, 100)
      })
      return () =>
        h('div', { id: 'shell' }, [
          h('header', [...paths.map((p) => h('a', { href: p, key: p }, p)), h('output', beat.value)]),
          h('main', { key: path.value }, [
            h('h1', routes[path.value].title),
            h('p', { class: 'lead' }, 'Ferries between the islands, every day.'),
            h(
              'ul',
              routes[path.value].items.map((i) => h('li', { key: i }, i)),
            ),
            h('p', { id: 'end' }, 'That is all.'),
          ]),
        ])
    },
  })
