import { api } from '../api'
import { askedOffline } from './asked'

export const codebooks = () =>
  askedOffline(['codebooks'], [], (signal) => api.GET('/api/v1/codebooks', { signal }))

export const codebook = (code: string) =>
  askedOffline(['codebook', code], [], (signal) =>
    api.GET('/api/v1/codebooks/{code}', { params: { path: { code } }, signal }),
  )
