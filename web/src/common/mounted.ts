import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { flushPromises, mount } from '@vue/test-utils'
import type { Component } from 'vue'
import { createMemoryHistory, createRouter } from 'vue-router'
import { api, between } from './api'
import { arrive } from './fields/arrive'

/** What was asked of the server: method, path and body. */
export interface Asked {
  method: string
  path: string
  body?: unknown
}

type Answer = unknown | ((asked: Asked) => unknown)

/**
 * A server for tests: answers by `method path` without its query, nothing found elsewhere. What was asked is kept.
 */
export function served(answers: Record<string, Answer>) {
  const asked: Asked[] = []
  const middleware = {
    async onRequest({ request }: { request: Request }) {
      const url = new URL(request.url)
      const text = request.method === 'GET' ? '' : await request.clone().text()
      const isBytes = !(request.headers.get('content-type') ?? 'json').includes('json')
      const one = {
        method: request.method,
        path: url.pathname + url.search,
        body: text && !isBytes ? JSON.parse(text) : undefined,
      }
      asked.push(one)
      const answer = answers[`${request.method} ${url.pathname}`]
      const body = typeof answer === 'function' ? answer(one) : answer
      const status = body === undefined ? 404 : body instanceof Response ? body.status : 200
      return body instanceof Response
        ? body
        : new Response(JSON.stringify(body ?? { detail: 'nothing' }), { status })
    },
  }
  api.use(middleware)
  between.push(middleware)
  const stop = () => {
    api.eject(middleware)
    between.splice(between.indexOf(middleware), 1)
  }
  return { asked, stop }
}

/** A component at an address, with all that the application gives its screens. */
export async function mounted(component: Component, props: object, address = '/') {
  const router = createRouter({
    history: createMemoryHistory(),
    routes: [{ path: '/:rest(.*)', component: { render: () => null } }],
  })
  await router.push(address)
  const queryClient = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  const page = mount(component, {
    props: props as Record<string, unknown>,
    attachTo: document.body,
    global: { plugins: [router, [VueQueryPlugin, { queryClient }]], directives: { arrive } },
  })
  await flushPromises()
  return { page, router }
}
