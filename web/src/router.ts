import { createRouter, createWebHistory } from 'vue-router'
import NowRoom from './rooms/now/NowRoom.vue'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', component: { template: '' } },
    { path: '/join', name: 'join', component: { template: '' }, meta: { title: 'Welcome' } },
    { path: '/new', name: 'new', component: { template: '' }, meta: { title: 'A site' } },
    { path: '/:site', redirect: (to) => `/${to.params.site}/now` },
    { path: '/:site/now', name: 'now', component: NowRoom, meta: { title: 'Now & next' } },
    {
      path: '/:site/notices/:notice',
      name: 'notice',
      component: () => import('./rooms/notice/NoticeRoom.vue'),
      meta: { title: 'Notice' },
    },
    {
      path: '/:site/pages',
      name: 'pages',
      component: () => import('./rooms/pages/PagesRoom.vue'),
      meta: { title: 'Pages' },
    },
    {
      path: '/:site/consent/:part?',
      name: 'consent',
      component: () => import('./rooms/consent/ConsentRoom.vue'),
      meta: { title: 'Consent' },
    },
    {
      path: '/:site/results',
      name: 'results',
      component: () => import('./rooms/results/ResultsRoom.vue'),
      meta: { title: 'Results' },
    },
    {
      path: '/:site/library',
      name: 'library',
      component: () => import('./rooms/library/LibraryRoom.vue'),
      meta: { title: 'Library' },
    },
    {
      path: '/:site/documents/:document',
      name: 'document',
      component: () => import('./rooms/document/DocumentRoom.vue'),
      meta: { title: 'Document' },
    },
    {
      path: '/:site/site/:part?',
      name: 'site',
      component: () => import('./rooms/site/SiteRoom.vue'),
      meta: { title: 'Site' },
    },
    {
      path: '/:site/:rest(.+)',
      name: 'nowhere',
      component: () => import('./rooms/door/NoRoom.vue'),
      meta: { title: 'Nothing here' },
    },
  ],
})
