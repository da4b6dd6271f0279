import type { Action, Topic } from '../usePeople'

interface Workspace {
  path: string
  /** What one has to see to have something to look for there. */
  topic: Topic
  /** What one has to be allowed to do to have something to do there. */
  action?: Action
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
  { path: '/watch', topic: 'meters', name: 'Watch', key: 'w', also: ['/alarms', '/families'] },
  { path: '/work', topic: 'work', name: 'Work', key: 'o' },
  { path: '/shift', topic: 'work', action: 'report_on_work', name: 'Shift', key: 'f' },
  { path: '/codes', topic: 'codes', name: 'Codes', key: 'c' },
  { path: '/tally', topic: 'figures', name: 'Tally', key: 't', also: ['/headlines'] },
  { path: '/reports', topic: 'work', name: 'Reports', key: 'r' },
  { path: '/setup', topic: 'office', name: 'Setup', key: 's' },
]
