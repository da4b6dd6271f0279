/** What was typed of a reading: a grade by its name, otherwise a number where it is one. */
export function givenValue(typed: string, isGrade: boolean): string | number {
  const text = typed.trim()
  const number = Number(text.replace(',', '.'))
  return isGrade || text === '' || Number.isNaN(number) ? text : number
}
