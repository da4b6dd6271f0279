/** Where a picture lies that helps to answer a question of a check sheet. */
export const pictureAt = (sheet: string) => (file: string, small: boolean) =>
  `/api/v1/check-sheets/${encodeURIComponent(sheet)}/pictures/${file}${small ? '?small=true' : ''}`
