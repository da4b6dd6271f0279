import { api } from '../api'
import { asked } from './asked'

export const codebooks = () => asked(['codebooks'], [], (signal) => api.GET('/api/v1/codebooks', { signal }))

export const codebook = (code: string) =>
  asked(['codebook', code], [], (signal) =>
    api.GET('/api/v1/codebooks/{code}', { params: { path: { code } }, signal }),
  )
