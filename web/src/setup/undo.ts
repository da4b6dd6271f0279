import { command } from '../common/change/registry'
import { lastChange } from '../common/change/undo'
import { saveRows } from './changes'
import type { Kind, MasterReceipt, Values } from './kinds'

/** What gives the rows of a receipt what they were, if they still are what they became. */
export function rowsBefore(receipt: MasterReceipt): { values: Values; was: Values }[] {
  return receipt.lines
    .filter((line) => line.outcome === 'changed')
    .map((line) => {
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
}

/** Offers to take back what a receipt says was changed. */
export function offerUndo(kind: Kind, receipt: MasterReceipt) {
  const rows = rowsBefore(receipt)
  const first = receipt.lines.find((line) => line.outcome === 'changed')
  const fields = (first?.changes ?? []).map((change) => change.field.replaceAll('_', ' ')).join(', ')
  const takes = command(saveRows, { kind, rows, reason: 'Taken back' })
  lastChange.value = rows.length
    ? { says: `${rows.length} changed: ${fields}`, takes, within: '/setup' }
    : undefined
}
