import { ref } from 'vue'
import type { Kind, MasterReceipt, Values } from './kinds'

/** The last change of many rows, to be taken back: what each row was, and what it must still be. */
export interface Undo {
  kind: Kind
  says: string
  rows: { values: Values; was: Values }[]
}

export const lastChange = ref<Undo>()

/** Offers to take back what a receipt says was changed. */
export function offerUndo(kind: Kind, receipt: MasterReceipt) {
  const changed = receipt.lines.filter((line) => line.outcome === 'changed')
  const rows = changed.map((line) => {
    const values: Values = { code: line.code }
    const was: Values = {}
    for (const change of line.changes) {
      if (change.field === 'new_code') {
        // Found by the code it has now, it gets its old one back.
        values.code = change.to
        values.new_code = line.code
      } else {
        values[change.field] = change.from
        was[change.field] = change.to
      }
    }
    return { values, was }
  })
  const fields = (changed[0]?.changes ?? []).map((change) => change.field.replaceAll('_', ' ')).join(', ')
  lastChange.value = rows.length ? { kind, rows, says: `${rows.length} changed: ${fields}` } : undefined
}
