interface Workspace {
  path: string
  name: string
  /** The letter that follows `g`. */
  key: string
  /** Other paths that belong to it. */
  also?: string[]
}

/** Whether a path belongs to a workspace. */
export function belongs(path: string, workspace: Workspace): boolean {
  return [workspace.path, ...(workspace.also ?? [])].some((start) => path.startsWith(start))
}

/** The workspaces, in the order of the work. */
export const workspaces: Workspace[] = [
  { path: '/watch', name: 'Watch', key: 'w', also: ['/alarms', '/families'] },
  { path: '/work', name: 'Work', key: 'o' },
  { path: '/codes', name: 'Codes', key: 'c' },
  { path: '/tally', name: 'Tally', key: 't' },
  { path: '/setup', name: 'Setup', key: 's' },
]
