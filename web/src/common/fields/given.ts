import { typedNumber } from './numbers'

/** What was typed of a reading: a grade by its name, otherwise a number where it is one. */
export function givenValue(typed: string, isGrade: boolean): string | number {
  const text = typed.trim()
  const number = typedNumber(text)
  return isGrade || number === undefined || Number.isNaN(number) ? text : number
}
