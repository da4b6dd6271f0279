import { createHash } from 'node:crypto'
import { readFileSync } from 'node:fs'
import type { Plugin } from 'vite'

/** Screens that open without a network, with all that they need. */
const SCREENS = [
  '/src/main.ts',
  '/shift/ShiftPage.vue',
  '/work/JobPage.vue',
  '/work/RaiseForm.vue',
  '/work/checks/CheckPage.vue',
]

type Chunk = {
  type: 'chunk'
  fileName: string
  code: string
  imports: string[]
  moduleIds: string[]
  viteMetadata?: { importedCss: Set<string>; importedAssets: Set<string> }
}

/** Names the files that the service worker keeps: those of some screens, by what the bundler made of them. */
export function keptFiles(): Plugin {
  return {
    name: 'kept-files',
    enforce: 'post',
    generateBundle(_, bundle) {
      const chunks = Object.values(bundle).filter((file) => file.type === 'chunk') as unknown as Chunk[]
      const worker = chunks.find(({ fileName }) => fileName === 'sw.js')
      if (!worker) return
      const kept = new Set<string>()
      const take = (fileName: string) => {
        const chunk = chunks.find((one) => one.fileName === fileName)
        if (!chunk || kept.has(fileName)) return
        kept.add(fileName)
        chunk.viteMetadata?.importedCss.forEach((file) => kept.add(file))
        chunk.viteMetadata?.importedAssets.forEach((file) => kept.add(file))
        chunk.imports.forEach(take)
      }
      for (const screen of SCREENS) {
        const chunk = chunks.find(({ moduleIds }) => moduleIds.some((id) => id.endsWith(screen)))
        if (!chunk) this.error(`no chunk holds ${screen}`)
        else take(chunk.fileName)
      }
      // Latin letters only; others come with the network.
      const files = [...kept].filter((file) => !/-(cyrillic|greek|vietnamese)/.test(file))
      const page = createHash('sha256').update(readFileSync('index.html')).update(files.join()).digest('hex')
      const entries = [
        { url: '/index.html', revision: page.slice(0, 16) },
        ...files.map((file) => ({ url: `/${file}`, revision: null })),
      ]
      worker.code = worker.code.replace('__KEPT_FILES__', JSON.stringify(entries))
    },
  }
}
