import type {
  Account,
  ArtworkAnswer,
  ArtworkHead,
  CreateRender,
  KeepValues,
  KeptValues,
  OwnRecipe,
  Photo,
  Problem,
  Render,
  State,
  StateHead,
} from '@nimble-quill/contracts'
import { createApi, fetchBaseQuery } from '@reduxjs/toolkit/query/react'

/** The API as the contracts describe it. */
export const api = createApi({
  reducerPath: 'api',
  baseQuery: fetchBaseQuery({ baseUrl: '/api', timeout: 30_000 }),
  tagTypes: ['states', 'recipes', 'session', 'photos', 'artworks', 'renders', 'kept'],
  endpoints: (b) => ({
    welcome: b.query<{ demo: boolean }, void>({ query: () => 'welcome' }),
    session: b.query<Account | null, void>({
      queryFn: async (_, __, ___, base) => {
        const { data, error } = await base('session')
        if (error) return error.status === 401 ? { data: null } : { error }
        return { data: data as Account }
      },
      providesTags: ['session'],
    }),
    signIn: b.mutation<Account, { email: string; password: string }>({
      query: (body) => ({ url: 'session', method: 'POST', body }),
      invalidatesTags: ['session'],
    }),
    signUp: b.mutation<Account, { name: string; email: string; password: string }>({
      query: (body) => ({ url: 'accounts', method: 'POST', body }),
      invalidatesTags: ['session'],
    }),
    enterDemo: b.mutation<Account, void>({ query: () => ({ url: 'session/demo', method: 'POST' }), invalidatesTags: ['session'] }),
    signOut: b.mutation<void, void>({ query: () => ({ url: 'session', method: 'DELETE' }) }),
    photos: b.query<Photo[], void>({ query: () => 'photos', providesTags: ['photos'] }),
    removePhoto: b.mutation<void, string>({ query: (id) => ({ url: `photos/${id}`, method: 'DELETE' }), invalidatesTags: ['photos'] }),
    restorePhoto: b.mutation<Photo, string>({ query: (id) => ({ url: `photos/${id}/restore`, method: 'POST' }), invalidatesTags: ['photos'] }),
    artworks: b.query<ArtworkHead[], void>({ query: () => 'artworks', providesTags: ['artworks'] }),
    artwork: b.query<ArtworkAnswer, string>({ query: (id) => `artworks/${id}`, keepUnusedDataFor: 0 }),
    createArtwork: b.mutation<ArtworkAnswer, { photo?: string; print?: number; document?: unknown }>({
      query: (body) => ({ url: 'artworks', method: 'POST', body }),
      invalidatesTags: ['artworks'],
    }),
    duplicateArtwork: b.mutation<ArtworkAnswer, string>({
      query: (id) => ({ url: `artworks/${id}/duplicate`, method: 'POST' }),
      invalidatesTags: ['artworks'],
    }),
    removeArtwork: b.mutation<void, string>({ query: (id) => ({ url: `artworks/${id}`, method: 'DELETE' }), invalidatesTags: ['artworks'] }),
    restoreArtwork: b.mutation<ArtworkHead, string>({ query: (id) => ({ url: `artworks/${id}/restore`, method: 'POST' }), invalidatesTags: ['artworks'] }),
    keptValues: b.query<KeptValues[], void>({ query: () => 'kept-values', providesTags: ['kept'] }),
    keepValues: b.mutation<KeptValues, KeepValues>({ query: (body) => ({ url: 'kept-values', method: 'PUT', body }), invalidatesTags: ['kept'] }),
    forgetValues: b.mutation<void, string>({ query: (id) => ({ url: `kept-values/${id}`, method: 'DELETE' }), invalidatesTags: ['kept'] }),
    states: b.query<StateHead[], string>({ query: (artwork) => `artworks/${artwork}/states`, providesTags: ['states'] }),
    state: b.query<State, { artwork: string; id: string }>({ query: ({ artwork, id }) => `artworks/${artwork}/states/${id}`, providesTags: ['states'] }),
    keepState: b.mutation<StateHead, { artwork: string; name: string; document: unknown }>({
      query: ({ artwork, ...body }) => ({ url: `artworks/${artwork}/states`, method: 'PUT', body }),
      invalidatesTags: ['states'],
    }),
    forgetState: b.mutation<void, { artwork: string; id: string }>({
      query: ({ artwork, id }) => ({ url: `artworks/${artwork}/states/${id}`, method: 'DELETE' }),
      invalidatesTags: ['states'],
    }),
    ownRecipes: b.query<OwnRecipe[], void>({ query: () => 'recipes', providesTags: ['recipes'] }),
    keepRecipe: b.mutation<OwnRecipe, { recipe: unknown }>({ query: (body) => ({ url: 'recipes', method: 'PUT', body }), invalidatesTags: ['recipes'] }),
    forgetRecipe: b.mutation<void, string>({ query: (id) => ({ url: `recipes/${id}`, method: 'DELETE' }), invalidatesTags: ['recipes'] }),
    renders: b.query<Render[], void>({ query: () => 'renders', providesTags: ['renders'] }),
    addRender: b.mutation<Render, CreateRender>({ query: (body) => ({ url: 'renders', method: 'POST', body }), invalidatesTags: ['renders'] }),
    cancelRender: b.mutation<Render, string>({ query: (id) => ({ url: `renders/${id}/cancel`, method: 'POST' }) }),
    removeRender: b.mutation<void, string>({ query: (id) => ({ url: `renders/${id}`, method: 'DELETE' }), invalidatesTags: ['renders'] }),
  }),
})

export const {
  useWelcomeQuery,
  useSessionQuery,
  useSignInMutation,
  useSignUpMutation,
  useEnterDemoMutation,
  useSignOutMutation,
  usePhotosQuery,
  useRemovePhotoMutation,
  useRestorePhotoMutation,
  useArtworksQuery,
  useArtworkQuery,
  useCreateArtworkMutation,
  useDuplicateArtworkMutation,
  useRemoveArtworkMutation,
  useRestoreArtworkMutation,
  useStatesQuery,
  useStateQuery,
  useKeepStateMutation,
  useForgetStateMutation,
  useOwnRecipesQuery,
  useKeepRecipeMutation,
  useForgetRecipeMutation,
  useKeptValuesQuery,
  useKeepValuesMutation,
  useForgetValuesMutation,
  useRendersQuery,
  useAddRenderMutation,
  useCancelRenderMutation,
  useRemoveRenderMutation,
} = api

/** The sentence to show for a failed request. */
export function sentenceOf(error: unknown): string {
  const { data, status } = (error ?? {}) as { data?: Partial<Problem>; status?: unknown }
  if (data?.detail) return data.detail
  if (status === 'FETCH_ERROR' || status === 'TIMEOUT_ERROR') return 'The server does not answer. What was saved is safe; check the connection and try again.'
  return 'That did not work. What was saved is safe; try again.'
}
