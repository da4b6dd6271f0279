/** A place on the board of a week; without a date it is off the board. */
export type Place = { crew?: string; date?: string }

/** As it stands on the board: `crew|date`, or empty for off the board. */
export const placeKey = (place: Place) => (place.date ? `${place.crew ?? ''}|${place.date}` : '')

export function placeOf(key: string): Place {
  const [crew, date] = key.split('|')
  return date ? { crew: crew || undefined, date } : {}
}
