// @vitest-environment happy-dom
import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import { defineComponent, h, ref } from 'vue'
import type { LedgerColumn, LedgerOrder } from './columns'
import LedgerTable from './LedgerTable.vue'

interface Pump {
  code: string
  name: string
  hours?: number
}
const pumps: Pump[] = [
  { code: 'P1', name: 'Östra', hours: 12 },
  { code: 'P2', name: 'anders' },
  { code: 'P3', name: 'Zeta', hours: 3 },
  { code: 'P4', name: 'Bo', hours: 100 },
]
const columns: LedgerColumn<Pump>[] = [
  { key: 'code', name: 'Code', text: (row) => row.code, lead: true, sorts: true },
  { key: 'name', name: 'Name', text: (row) => row.name },
  { key: 'hours', name: 'Hours', text: (row) => String(row.hours ?? ''), by: (row) => row.hours, num: true },
  { key: 'do', name: 'Do', unseen: true },
]

function ledger(given: Record<string, unknown> = {}) {
  const order = ref<LedgerOrder>()
  const selected = ref(new Set<string>())
  const wrapper = mount(
    defineComponent({
      setup: () => () =>
        h(
          LedgerTable as never,
          {
            columns,
            rows: pumps,
            keyOf: (row: Pump) => row.code,
            test: 'pump',
            order: order.value,
            'onUpdate:order': (next: LedgerOrder) => (order.value = next),
            selected: selected.value,
            'onUpdate:selected': (next: Set<string>) => (selected.value = next),
            ...given,
          },
          {
            do: ({ row }: { row: Pump }) => h('button', { 'data-row': '' }, `Stop ${row.code}`),
            below: ({ row }: { row: Pump }) => `more of ${row.code}`,
          },
        ),
    }),
    { attachTo: document.body },
  )
  const codes = () => wrapper.findAll('[data-test=pump]').map((row) => row.find('td.lead').text())
  const head = (name: string) => wrapper.findAll('th').find((cell) => cell.text().startsWith(name))!
  return { wrapper, order, selected, codes, head }
}

describe('a ledger', () => {
  it('orders by its heads, what is absent last, and comes back to how it came', async () => {
    const { codes, head, order } = ledger()
    expect(codes()).toEqual(['P1', 'P2', 'P3', 'P4'])
    await head('Name').find('button').trigger('click')
    expect(codes(), 'as people order names').toEqual(['P2', 'P4', 'P1', 'P3'])
    await head('Hours').find('button').trigger('click')
    expect(codes(), 'figures begin with the greatest').toEqual(['P4', 'P1', 'P3', 'P2'])
    expect(head('Hours').attributes('aria-sort')).toBe('descending')
    await head('Hours').find('button').trigger('click')
    expect(codes()).toEqual(['P3', 'P1', 'P4', 'P2'])
    await head('Hours').find('button').trigger('click')
    expect([codes(), order.value]).toEqual([['P1', 'P2', 'P3', 'P4'], undefined])
    expect(head('Do').find('button').exists(), 'nothing to order by').toBe(false)
  })

  it('leaves the order to a server that has it', async () => {
    const { codes, head, order } = ledger({ served: true })
    expect(head('Name').find('button').exists()).toBe(false)
    await head('Code').find('button').trigger('click')
    expect(order.value).toEqual({ key: 'code', descending: false })
    await head('Code').find('button').trigger('click')
    expect(order.value).toEqual({ key: 'code', descending: true })
    expect(codes(), 'as they come').toEqual(['P1', 'P2', 'P3', 'P4'])
  })

  it('selects the rows that can be, one by one and all of them', async () => {
    const selects = (row: Pump) => (row.code === 'P2' ? undefined : row.name)
    const { wrapper, selected } = ledger({ selects })
    expect(wrapper.findAll('tbody [type=checkbox]').length).toBe(3)
    await wrapper.find('[aria-label="Select Zeta"]').trigger('change')
    expect([...selected.value]).toEqual(['P3'])
    await wrapper.find('[aria-label="Select all rows shown"]').trigger('change')
    expect([...selected.value].sort()).toEqual(['P1', 'P3', 'P4'])
    await wrapper.find('[aria-label="Select all rows shown"]').trigger('change')
    expect(selected.value.size).toBe(0)
  })

  it('goes from row to row by arrows, and shows what is below the opened one', async () => {
    const { wrapper } = ledger({ opened: 'P3' })
    const buttons = wrapper.findAll<HTMLElement>('[data-row]')
    buttons[1]!.element.focus()
    await buttons[1]!.trigger('keydown', { key: 'ArrowDown' })
    expect(document.activeElement?.textContent).toBe('Stop P3')
    await buttons[2]!.trigger('keydown', { key: 'ArrowUp' })
    expect(document.activeElement?.textContent).toBe('Stop P2')
    expect(wrapper.find('.below').text()).toBe('more of P3')
  })

  it('says each thing’s name beside it for a card, but not that of the row', () => {
    const cells = ledger().wrapper.find('[data-test=pump]').findAll('td')
    expect(cells.map((cell) => cell.attributes('data-name'))).toEqual([undefined, 'Name', 'Hours', undefined])
  })
})
