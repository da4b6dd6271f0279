// @vitest-environment happy-dom
import { mount } from '@vue/test-utils'
import { expect, test } from 'vitest'
import { defineComponent, ref, withDirectives, h } from 'vue'
import { arrive } from './arrive'

const page = (what: 'form' | 'aside') => {
  const open = ref(false)
  const shown = mount(
    defineComponent(() => () => [
      h('button', { onClick: () => (open.value = !open.value) }, 'Open'),
      open.value
        ? withDirectives(h(what, [h('input', { type: 'hidden' }), h('input', { name: 'why' })]), [[arrive]])
        : undefined,
    ]),
    { attachTo: document.body },
  )
  return { open, shown, button: shown.get('button') }
}

test('A form takes the focus to its first field, and gives it back', async () => {
  const { open, shown, button } = page('form')
  button.element.focus()
  await button.trigger('click')
  expect(document.activeElement).toBe(shown.get('[name=why]').element)
  ;(document.activeElement as HTMLElement).blur()
  open.value = false
  await shown.vm.$nextTick()
  expect(document.activeElement).toBe(button.element)
  shown.unmount()
})

test('What is no form takes it itself; whoever went on stays there', async () => {
  const { open, shown, button } = page('aside')
  button.element.focus()
  await button.trigger('click')
  expect(document.activeElement).toBe(shown.get('aside').element)
  const other = document.body.appendChild(document.createElement('button'))
  other.focus()
  open.value = false
  await shown.vm.$nextTick()
  expect(document.activeElement).toBe(other)
  shown.unmount()
})
