/** The way to a root's row, which counts only while it was a root. */
export const FROM_ROOT = '/'

/** The way to the rows below a row: codes from the outermost, as the server reads them. */
export function wayBelow(way: string, asset: string): string {
  return way && way !== FROM_ROOT ? `${way}/${asset}` : way + asset
}
