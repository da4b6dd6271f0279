/** What can be done from anywhere by its name, and the screen where it begins. */
export const commands = [
  { name: 'Raise work', path: '/work', query: { raise: 'yes' } },
  { name: 'Show work past its window', path: '/work', query: { past: 'yes' } },
  { name: 'Show work over the limit of its state', path: '/work', query: { over: 'yes' } },
  { name: 'Import readings', path: '/setup/files/readings' },
  { name: 'Import assets', path: '/setup/files/assets' },
  { name: 'Import meters', path: '/setup/files/meters' },
  { name: 'Import people', path: '/setup/files/people' },
  { name: 'Import codebooks', path: '/setup/files/codebooks' },
  { name: 'Export data', path: '/setup/files' },
  { name: 'Add an asset', path: '/setup/assets/new' },
  { name: 'Add a meter', path: '/setup/meters/new' },
  { name: 'Add a person', path: '/setup/people/new' },
  { name: 'Change ranks, state limits, currency, time zone', path: '/setup/installation' },
  { name: 'See what was changed in the setup', path: '/setup/changes' },
  { name: 'Keys', path: '', query: {} },
] as { name: string; path: string; query?: Record<string, string> }[]
