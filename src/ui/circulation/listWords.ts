export const listWords = {
  holder: 'Waiting for',
  anybody: 'Anyone',
  type: 'Document type',
  allTypes: 'All types',
  late: 'Late only',
  kept: 'Kept filters',
  choose: 'Choose …',
  keep: 'Keep this filter …',
  keepAs: 'Name of the filter',
  keepNow: 'Keep filter',
  forget: (name: string) => `Remove “${name}”`,
  clear: 'Show all',
  selected: (n: number) => (n === 1 ? 'One circulation selected' : `${n} circulations selected`),
  selectAll: (n: number) => `Select all ${n} shown`,
  unselect: 'Clear selection',
  acts: { remind: 'Remind', extend: 'Extend …', reassign: 'Reassign …', handControl: 'Hand on control …' },
  cancel: 'Cancel',
  remindMore: 'Everybody who is asked there gets a reminder; one message each, however many it is about.',
  extendTo: 'Due',
  extendMore:
    'For everybody who is asked there and due earlier. Closing times move only where they would lie before it.',
  extendNow: (n: number) => (n === 1 ? 'Extend one circulation' : `Extend ${n} circulations`),
  from: 'From',
  to: 'To',
  reassignMore:
    'Everything that the first is asked there goes to the second, with the same times; what is late already is due in two working days.',
  reassignNow: 'Reassign',
  handTo: 'Hand on control to',
  handMore: 'They steer these circulations from then on, and you no longer do.',
  handNow: (n: number) => (n === 1 ? 'Hand on one circulation' : `Hand on ${n} circulations`),
  done: (acts: number, circulations: number, refused: number) =>
    [
      circulations === 0
        ? 'Nothing was done'
        : `Done in ${circulations === 1 ? 'one circulation' : `${circulations} circulations`} (${acts === 1 ? 'one act' : `${acts} acts`})`,
      refused === 0 ? '' : refused === 1 ? 'not in one' : `not in ${refused}`,
    ]
      .filter(Boolean)
      .join(', '),
  refused: 'Not done',
  close: 'Close',
} as const;
