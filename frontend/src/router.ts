import { createRouter, createWebHistory } from 'vue-router'
import { loadSession } from './session/useSession'

export const router = createRouter({
  history: createWebHistory('/'),
  routes: [
    { path: '/', redirect: '/songs' },
    { path: '/sign-in', component: () => import('./session/SignInPage.vue'), meta: { open: true } },
    { path: '/songs', component: () => import('./shelf/ShelfPage.vue') },
    { path: '/songs/:id', component: () => import('./song/SongPage.vue'), props: true },
    { path: '/people/:id?', component: () => import('./people/GroupsPage.vue'), props: true },
    { path: '/join/:token', component: () => import('./people/JoinPage.vue'), props: true },
    { path: '/account', component: () => import('./account/AccountPage.vue') },
    { path: '/forgot', component: () => import('./account/ForgotPage.vue'), meta: { open: true } },
    { path: '/reset/:number/:token', component: () => import('./account/ForgotPage.vue'), props: true, meta: { open: true } },
    { path: '/confirm-email/:token', component: () => import('./account/ConfirmEmailPage.vue'), props: true, meta: { open: true } },
    { path: '/mails', component: () => import('./account/MailsPage.vue'), meta: { open: true } },
    { path: '/shared/:token', component: () => import('./share/SharedPage.vue'), props: true, meta: { open: true } },
    { path: '/:rest(.*)*', component: () => import('./base/NotFoundPage.vue'), meta: { open: true } },
  ],
})

router.beforeEach(async (to) => {
  if (to.meta.open) return true
  const session = await loadSession()
  // When the server is away the page itself says so.
  if (session === null || session.username) return true
  return { path: '/sign-in', query: { to: to.fullPath } }
})
