// @vitest-environment happy-dom
import { mount } from '@vue/test-utils'
import { expect, test } from 'vitest'
import { h } from 'vue'
import FormField from './FormField.vue'

const shown = (props: { wrong?: string; hint?: string }) => {
  const page = mount(FormField, {
    props: { label: 'Reason', ...props },
    slots: { default: ({ field }: { field: object }) => h('input', field) },
  })
  const input = page.get('input').attributes()
  return { page, input, says: input['aria-describedby'] && page.get(`#${input['aria-describedby']}`).text() }
}

test('What is wrong describes the field and is no part of its name', () => {
  const { page, input, says } = shown({ wrong: 'say why', hint: 'in a few words' })
  expect(page.get('label').attributes('for')).toBe(input.id)
  expect(page.get('label').text()).toBe('Reason')
  expect([says, input['aria-invalid']]).toEqual(['say why', 'true'])
  expect(page.text()).not.toContain('in a few words')
})

test('A hint describes it as long as nothing is wrong; without either nothing does', () => {
  const { input, says } = shown({ hint: 'in a few words' })
  expect([says, input['aria-invalid']]).toEqual(['in a few words', undefined])
  expect(shown({}).input['aria-describedby']).toBeUndefined()
})
