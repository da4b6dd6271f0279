import type { components } from '../generated/api'

type Schemas = components['schemas']
export type Kind = Schemas['Kind']
export type FileKind = Schemas['FileKind']
export type Column = Schemas['Column']
export type MasterPage = Schemas['MasterPage']
export type MasterReceipt = Schemas['MasterReceipt']
export type ImportReceipt = Schemas['ImportReceipt']
export type RowReport = Schemas['RowReport']
export type ChangeRow = Schemas['ChangeRow']
export type Values = Record<string, string>

/** The tables of master data: what one row is called, what the table is for, and the columns its list shows. */
export const tables: Record<Kind, { one: string; many: string; says: string; shown: string[] }> = {
  assets: {
    one: 'asset',
    many: 'Assets',
    says: 'The tree of the plant: places that stay, and pieces that move between them.',
    shown: ['code', 'name', 'level', 'parent', 'class', 'criticality', 'crew', 'parent_effect'],
  },
  'equipment-classes': {
    one: 'equipment class',
    many: 'Equipment classes',
    says: 'A class decides which codebook its assets use.',
    shown: ['code', 'name'],
  },
  meters: {
    one: 'meter',
    many: 'Meters',
    says: 'What is read on an asset: counters, measurements and grades.',
    shown: [
      'code',
      'asset',
      'name',
      'measuring_point',
      'kind',
      'unit',
      'plausible_low',
      'plausible_high',
      'longest_silence',
    ],
  },
  people: {
    one: 'person',
    many: 'People',
    says: 'Who works here, what each may do, and in which part of the plant.',
    shown: ['code', 'name', 'role', 'crew', 'scope', 'rate', 'active'],
  },
  crews: {
    one: 'crew',
    many: 'Crews',
    says: 'A crew belongs to a department and can do so many hours a week.',
    shown: ['code', 'name', 'department', 'weekly_hours', 'scope'],
  },
  storeroom: {
    one: 'part',
    many: 'Parts in the storeroom',
    says: 'What is in stock, where it lies, how long it takes to get more, and which assets it fits.',
    shown: ['code', 'name', 'place', 'stock', 'lead_days', 'price', 'fits'],
  },
  'upkeep-plans': {
    one: 'upkeep plan',
    many: 'Upkeep plans',
    says: 'Work that recurs, every so many days or so much on a counter: what is active makes it by itself.',
    shown: [
      'code',
      'name',
      'asset',
      'class',
      'every_days',
      'every_units',
      'crew',
      'estimated_hours',
      'status',
    ],
  },
}

/** The parts of the setup, in the order in which a plant is set up. */
export const sections: { key: string; name: string; begins?: boolean }[] = [
  { key: 'assets', name: 'Assets' },
  { key: 'equipment-classes', name: 'Classes' },
  { key: 'meters', name: 'Meters' },
  { key: 'people', name: 'People' },
  { key: 'crews', name: 'Crews' },
  { key: 'job-sheets', name: 'Job sheets' },
  { key: 'check-sheets', name: 'Check sheets' },
  { key: 'rounds', name: 'Rounds' },
  { key: 'upkeep-plans', name: 'Plans' },
  { key: 'storeroom', name: 'Storeroom' },
  { key: 'calendars', name: 'Calendars' },
  { key: 'values', name: 'Values' },
  // What stands there and how it is worked on above, the program itself below.
  { key: 'installation', name: 'Installation', begins: true },
  { key: 'files', name: 'Files' },
  { key: 'outside', name: 'Outside' },
  { key: 'keys', name: 'Keys' },
  { key: 'backups', name: 'Backups' },
  { key: 'changes', name: 'Changes' },
]

export function isTable(section: string): section is Kind {
  return section in tables
}

/** Cells that stand right: figures. */
export function isFigure(column: Column): boolean {
  return column.form.kind === 'number' || column.form.kind === 'money'
}
