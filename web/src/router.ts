import { createRouter, createWebHistory } from 'vue-router'
import { documentKinds, documents } from './build/documents'
import { useSession } from './session'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', redirect: '/use' },
    { path: '/sign-in', component: () => import('./signin/SignIn.vue') },
    { path: '/set-up/:token', component: () => import('./signin/SetUp.vue'), props: true },
    { path: '/not-set-up', component: () => import('./signin/NotSetUp.vue') },
    { path: '/password/:token', component: () => import('./signin/ChoosePassword.vue'), props: true },
    { path: '/use', component: () => import('./use/HomePage.vue') },
    { path: '/use/page/:name', component: () => import('./use/PagePage.vue'), props: true },
    { path: '/use/run/:id', component: () => import('./use/RunPage.vue'), props: true },
    { path: '/use/record/:object/:id', component: () => import('./use/RecordPage.vue'), props: true },
    {
      path: '/build',
      component: () => import('./build/BuildPage.vue'),
      children: [
        { path: '', component: () => import('./build/BuildStart.vue') },
        ...documentKinds.map((kind) => ({
          path: `${kind}/:name`,
          component: documents[kind].page,
          props: true,
        })),
        {
          path: 'object/:name/records',
          component: () => import('./build/object/RecordsPage.vue'),
          props: true,
        },
        { path: 'intake', component: () => import('./build/intake/IntakeStart.vue') },
        { path: 'intake/:id', component: () => import('./build/intake/IntakePage.vue'), props: true },
        { path: 'people', component: () => import('./build/people/PeoplePage.vue') },
      ],
    },
    { path: '/:rest(.*)', component: () => import('./frame/NotFound.vue') },
  ],
})

/** Where nobody is signed in yet. */
export const outside = (path: string): boolean =>
  ['/sign-in', '/not-set-up'].includes(path) || /^\/(password|set-up)\//.test(path)

router.beforeEach(async (to) => {
  if (outside(to.path)) return true
  const me = await useSession()
    .reached()
    .catch(() => null)
  if (me?.not_set_up) return '/not-set-up'
  if (!me?.signed_in) return { path: '/sign-in', query: { to: to.fullPath } }
  if (to.path.startsWith('/build') && !me.builder) return '/use'
  return true
})
