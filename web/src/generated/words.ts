// Generated from the description of the API.
import type { components } from './api'

type Schemas = components['schemas']

export const severities: readonly Schemas['Severity'][] = ['notice', 'alert', 'serious', 'danger']

export const rowKinds: readonly Schemas['TallyRowKind'][] = ['asset', 'own', 'formerly_here']

export const levels: readonly Schemas['Level'][] = ['site', 'unit', 'system', 'equipment', 'part']

export const roles: readonly Schemas['Role'][] = ['engineer', 'planner', 'technician', 'requester', 'manager', 'viewer', 'gateway', 'administrator']
