/** What was typed for a number: with a point or a comma, and with or without blanks between thousands. */
export function typedNumber(text: string): number | undefined {
  const plain = text
    .replace(/[\s\u00a0\u202f]/g, '')
    .replace(',', '.')
    .replace('−', '-')
  return plain === '' ? undefined : Number(plain)
}
