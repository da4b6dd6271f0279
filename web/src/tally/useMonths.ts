import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import type { TallyRow } from '../common/api'
import { monthOf } from '../common/format'
import type { LedgerColumn } from '../common/ledger/columns'
import { figures } from '../common/queries/tally'
import { useTally } from '../common/useTally'

/** A day within the month of a row. */
export const dayOf = (row: TallyRow) => `${row.month ?? ''}-15T12:00:00Z`
/** What a row counts; nothing is none. */
export const valueOf = (row: TallyRow, id: string) => row.figures[id]?.value ?? 0
/** The column that names the month of a row. */
export const MONTH: LedgerColumn<TallyRow> = {
  key: 'month',
  name: 'Month',
  text: (row) => monthOf(dayOf(row)),
  by: (row) => row.month,
  lead: true,
}

/** An asset's indicators by month, once the asset is known. */
export function useMonths(top: () => TallyRow | undefined, indicators: readonly string[]) {
  const { asked } = useTally()
  const { data } = useQuery(() => ({
    ...figures({ ...asked.value, scope: top()?.asset, by: 'month', indicators: indicators.join(',') }),
    enabled: top() !== undefined,
    placeholderData: keepPreviousData,
  }))
  return computed(() => data.value?.rows ?? [])
}
