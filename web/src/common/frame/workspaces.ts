/** The workspaces, in the order of the work, each with the letter that follows `g`. */
export const workspaces = [
  { path: '/watch', name: 'Watch', key: 'w' },
  { path: '/work', name: 'Work', key: 'o' },
  { path: '/codes', name: 'Codes', key: 'c' },
  { path: '/tally', name: 'Tally', key: 't' },
  { path: '/setup', name: 'Setup', key: 's' },
]
