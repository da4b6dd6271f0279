// @vitest-environment happy-dom
import { mount } from '@vue/test-utils'
import { beforeEach, describe, expect, it } from 'vitest'
import InstantField from './InstantField.vue'
import NumberField from './NumberField.vue'
import ReferenceField from './ReferenceField.vue'
import { installation } from '../installation'
import { typedNumber } from './numbers'

describe('a number', () => {
  it('is read as people type it', () => {
    const read = ['1,5', '1.5', '−2', '12 000', '1\u202f000,25', '', 'abc'].map(typedNumber)
    expect(read).toEqual([1.5, 1.5, -2, 12_000, 1_000.25, undefined, Number.NaN])
  })

  it('stays as typed while it means the same, and follows what is set from elsewhere', async () => {
    const field = mount(NumberField, { props: { label: 'Deadband', modelValue: 2 } })
    const input = field.find('input')
    await input.setValue('2,50')
    expect(field.emitted('update:modelValue')).toEqual([[2.5]])
    await field.setProps({ modelValue: 2.5 })
    expect(input.element.value).toBe('2,50')
    await field.setProps({ modelValue: 4 })
    expect(input.element.value).toBe('4')
    await input.setValue('')
    expect(field.emitted('update:modelValue')?.at(-1)).toEqual([undefined])
  })

  it('keeps its form from going out while it is none, and says so once it is left', async () => {
    const field = mount(NumberField, { props: { label: 'Hours', modelValue: 3, min: 0 } })
    const input = field.find('input')
    await input.setValue('a lot')
    expect([input.element.validationMessage, field.find('.wrong').exists()]).toEqual([
      'is not a number',
      false,
    ])
    expect(field.emitted('update:modelValue'), 'nothing is sent that was not typed').toBeUndefined()
    await input.trigger('blur')
    expect(field.find('.wrong').text()).toBe('is not a number')
    await input.setValue('-1')
    expect(field.find('.wrong').text()).toBe('must be 0 or more')
    await input.setValue('1')
    expect([input.element.validationMessage, field.find('.wrong').exists()]).toEqual(['', false])
  })
})

describe('an instant', () => {
  beforeEach(() => {
    installation.value = { ...installation.value, time_zone: 'Europe/Vienna' }
  })

  it('is typed in the installation’s zone, and one that nobody touched stays as it is', async () => {
    const field = mount(InstantField, { props: { label: 'Retired', modelValue: '2019-09-30T22:00:27Z' } })
    expect(field.find('input').element.value).toBe('2019-10-01T00:00')
    expect(field.emitted('update:modelValue')).toBeUndefined()
    await field.find('input').setValue('2019-10-27T03:30')
    expect(field.emitted('update:modelValue')).toEqual([['2019-10-27T02:30:00.000Z']])
    await field.find('input').setValue('')
    expect(field.emitted('update:modelValue')?.at(-1)).toEqual([''])
  })
})

describe('a reference', () => {
  it('says the name of what is chosen beside its label, and ties its choices to the field', async () => {
    const choices = [
      { code: 'P1', name: 'Pump one' },
      { code: 'P2', name: 'Pump two' },
    ]
    const field = mount(ReferenceField, { props: { label: 'Asset', modelValue: 'P', choices } })
    expect(field.find('label').text()).toBe('Asset')
    expect(field.find('input').attributes('list')).toBe(field.find('datalist').attributes('id'))
    await field.setProps({ modelValue: 'P2' })
    expect(field.find('label').text()).toBe('Asset Pump two')
  })
})
