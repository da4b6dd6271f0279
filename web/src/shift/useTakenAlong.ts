import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { onMounted, watch } from 'vue'
import type { Schemas } from '../common/api'
import { pictureAt } from '../common/checks/pictures'
import { forget } from '../common/offline/kept'
import { keepPictures } from '../common/offline/pictures'
import { withQueued } from '../common/offline/queue'
import { keepApplication, opensOffline } from '../common/offline/worker'
import { keep, keptAs } from '../common/queries/asked'
import { takenAlong } from './queries/shift'

/** How often what is taken along is asked for anew, in milliseconds. */
const ANEW = 300_000

/** Where the pictures lie that go along: small, as they are shown. */
function picturesOf({ orders, checks }: Schemas['TakenAlong']): string[] {
  const photos = orders.flatMap(({ number, attachments }) =>
    attachments
      .filter(({ width }) => width != null)
      .map(({ id }) => `/api/v1/work-orders/${number}/attachments/${id}?small=true`),
  )
  const helping = checks.flatMap(({ sheet, questions }) =>
    questions.flatMap(({ picture }) => (picture ? [pictureAt(sheet)(picture, true)] : [])),
  )
  return [...new Set([...photos, ...helping])]
}

/** Keeps the jobs of the coming days in the browser, and the application: they open where there is no network. */
export function useTakenAlong() {
  const client = useQueryClient()
  const { data } = useQuery({ ...takenAlong(), staleTime: ANEW / 2, refetchInterval: ANEW })
  watch(
    data,
    async (taken) => {
      if (!taken) return
      const rows: [readonly unknown[], unknown][] = [
        [['shift', '', ''], taken.shift],
        ...taken.orders.map((order): [readonly unknown[], unknown] => [['work-order', order.number], order]),
        ...taken.checks.map((check): [readonly unknown[], unknown] => [
          ['check', check.work_order, check.id],
          check,
        ]),
        ...taken.codebooks.map((book): [readonly unknown[], unknown] => [['codebook', book.code], book]),
      ]
      const names = new Set(rows.map(([key]) => keptAs(key)))
      for (const [key, row] of rows) {
        await keep(key, row)
        if (client.getQueryData(key) === undefined) client.setQueryData(key, withQueued(key, row))
      }
      await keepPictures(picturesOf(taken))
      // What is not one's work any more is not kept on a phone.
      for (const kind of ['["work-order"', '["check"'])
        await forget(`answer ${kind}`, (name) => names.has(name))
    },
    { immediate: true },
  )
  onMounted(() => void keepApplication())
  return { opensOffline }
}
