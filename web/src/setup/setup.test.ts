import { beforeEach, describe, expect, it } from 'vitest'
import { installation } from '../common/installation'
import { shown } from './cells'
import { effectWords } from './effect'
import type { Column, MasterReceipt } from './kinds'
import { isTable, sections, tables } from './kinds'
import { lastChange } from '../common/change/undo'
import { offerUndo, rowsBefore } from './undo'

const column = (kind: string) => ({ name: 'x', label: 'X', form: { kind } }) as unknown as Column

describe('cells', () => {
  beforeEach(() => {
    installation.value = { ...installation.value, time_zone: 'Europe/Vienna' }
  })

  it('show figures in groups and instants as dates', () => {
    expect(shown(column('money'), '14500000.00')).toBe('14\u202f500\u202f000.00')
    expect(shown(column('number'), '-40')).toBe('-40')
    expect(shown(column('instant'), '2019-09-30T22:00:00Z')).toBe('1 Oct 2019')
    expect(shown(column('text'), '1000')).toBe('1000')
    expect(shown(column('instant'), '')).toBe('')
  })
})

describe('undo', () => {
  const receipt = (lines: unknown[]) => ({ lines }) as MasterReceipt

  it('gives each row what it was, and says what it must still be', () => {
    const made = receipt([
      {
        code: 'P1',
        outcome: 'changed',
        changes: [{ field: 'criticality', from: '', to: 'A' }],
      },
      { code: 'P2', outcome: 'refused', changes: [] },
    ])
    expect(rowsBefore(made)).toEqual([{ values: { code: 'P1', criticality: '' }, was: { criticality: 'A' } }])
    offerUndo('assets', made)
    expect(lastChange.value?.says).toBe('1 changed: criticality')
  })

  it('gives a code back to what has another by now', () => {
    const changes = [{ field: 'new_code', from: '', to: 'DRIVE' }]
    expect(rowsBefore(receipt([{ code: 'EQ', outcome: 'changed', changes }]))).toEqual([
      { values: { code: 'DRIVE', new_code: 'EQ' }, was: {} },
    ])
  })

  it('is not offered where nothing changed', () => {
    offerUndo('assets', receipt([{ code: 'P1', outcome: 'added', changes: [] }]))
    expect(lastChange.value).toBeUndefined()
  })
})

describe('the setup', () => {
  it('has a table or a screen of its own for each part', () => {
    const own = sections.filter((part) => !isTable(part.key)).map((part) => part.key)
    expect(own).toEqual([
      'job-sheets',
      'check-sheets',
      'rounds',
      'calendars',
      'values',
      'installation',
      'files',
      'outside',
      'keys',
      'backups',
      'changes',
    ])
    expect(Object.values(tables).every((table) => table.shown[0] === 'code')).toBe(true)
  })

  it('says in words what being down does to the parent', () => {
    expect(effectWords({ kind: 'yes' })).toContain('down as well')
    expect(effectWords({ kind: 'group', name: 'pumps', needs: 2 })).toBe(
      'one of the pumps: what it belongs to is down while fewer than 2 of them are up',
    )
  })
})
