import { createRouter, createWebHistory } from 'vue-router'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'shelf', component: () => import('./screens/shelf/ShelfScreen.vue') },
    {
      path: '/masters/:masterId/pair', name: 'pair', component: () => import('./screens/look/PairScreen.vue'),
      props: ({ params, query }) => ({ masterId: params.masterId, left: String(query.left ?? ''), right: String(query.right ?? '') }),
    },
    { path: '/masters/:masterId/sayings', name: 'sayings', component: () => import('./screens/sayings/SayingsScreen.vue'), props: true },
    { path: '/masters/:masterId', name: 'lanes', component: () => import('./screens/lanes/LanesScreen.vue'), props: true },
    {
      path: '/masters/:masterId/master',
      name: 'master',
      component: () => import('./screens/master/MasterScreen.vue'),
      props: true,
    },
    {
      path: '/masters/:masterId/framing',
      name: 'framing',
      component: () => import('./screens/framing/FramingScreen.vue'),
      props: true,
    },
    {
      path: '/parcels/:parcelId',
      name: 'bench',
      component: () => import('./screens/bench/BenchScreen.vue'),
      props: true,
    },
    {
      path: '/parcels/:parcelId/look',
      name: 'look',
      component: () => import('./screens/look/LookScreen.vue'),
      props: true,
    },
    { path: '/dispatch', name: 'dispatch', component: () => import('./screens/dispatch/DispatchScreen.vue') },
    { path: '/receipts', name: 'receipts', component: () => import('./screens/receipts/ReceiptsScreen.vue') },
    { path: '/receipts/:receiptId/look', name: 'film-look', component: () => import('./screens/look/FilmLookScreen.vue'), props: true },
    { path: '/returned/:returnedId', name: 'learn', component: () => import('./screens/learn/LearnScreen.vue'), props: true },
    { path: '/sendings/:sendingId/watch', name: 'watch', component: () => import('./screens/watch/WatchScreen.vue'), props: true },
    { path: '/sheets/:sheetId/trust', name: 'trust', component: () => import('./screens/sheets/TrustScreen.vue'), props: true },
    { path: '/sheets/:sheetId?', name: 'sheets', component: () => import('./screens/sheets/SheetsScreen.vue'), props: true },
    { path: '/recipes/:recipeId?', name: 'recipes', component: () => import('./screens/recipes/RecipesScreen.vue'), props: true },
    { path: '/machine', name: 'machine', component: () => import('./screens/machine/MachineScreen.vue') },
    { path: '/:rest(.*)', name: 'nowhere', component: () => import('./screens/NowhereScreen.vue') },
  ],
})
