import { defineSlotRecipe } from '@chakra-ui/react';

/** How the parts of the library that have a form of their own are built; what each place needs besides is said there. */

const nothing = { outline: 'none' } as const;

const combobox = defineSlotRecipe({
  slots: ['root', 'control', 'input', 'content', 'item', 'itemGroup', 'itemGroupLabel'],
  base: {
    root: { display: 'flex', flexDirection: 'column', width: '100%' },
    control: { position: 'relative' },
    input: { width: '100%', textAlign: 'start', border: '1px solid' },
    content: {
      display: 'flex',
      flexDirection: 'column',
      overflowY: 'auto',
      zIndex: 40,
      ...nothing,
    },
    item: { display: 'flex', alignItems: 'center', flex: 'none', userSelect: 'none' },
    itemGroup: { display: 'flex', flexDirection: 'column' },
    itemGroupLabel: { flex: 'none' },
  },
});

const field = defineSlotRecipe({
  slots: ['root', 'label'],
  base: {
    root: { display: 'flex', flexDirection: 'column', width: '100%', position: 'relative' },
    label: { textAlign: 'start' },
  },
});

const turn = {
  display: 'inline-flex',
  alignItems: 'center',
  justifyContent: 'center',
  width: '32px',
  height: '32px',
  borderRadius: '6px',
  cursor: 'pointer',
  _hover: { bg: 'sunk' },
  _disabled: { opacity: 0.5 },
  _icon: { width: '16px', height: '16px' },
} as const;

const datePicker = defineSlotRecipe({
  slots: [
    'root',
    'control',
    'indicatorGroup',
    'trigger',
    'content',
    'view',
    'viewControl',
    'viewTrigger',
    'prevTrigger',
    'nextTrigger',
    'rangeText',
    'table',
    'tableHeader',
    'tableCellTrigger',
  ],
  base: {
    root: { display: 'flex', flexDirection: 'column', width: '100%' },
    control: { display: 'flex', alignItems: 'center', width: '100%', position: 'relative' },
    indicatorGroup: {
      position: 'absolute',
      insetEnd: '4px',
      top: '50%',
      transform: 'translateY(-50%)',
      display: 'flex',
    },
    trigger: { display: 'inline-flex', alignItems: 'center', justifyContent: 'center', cursor: 'pointer' },
    content: { display: 'flex', flexDirection: 'column', padding: '12px', minWidth: '288px', zIndex: 40, ...nothing },
    view: { display: 'flex', flexDirection: 'column', gap: '12px', _hidden: { display: 'none' } },
    viewControl: { display: 'flex', alignItems: 'center', justifyContent: 'space-between', gap: '8px', height: '32px' },
    viewTrigger: { flex: '1', height: '32px', fontWeight: 600, borderRadius: '6px', _hover: { bg: 'sunk' } },
    prevTrigger: turn,
    nextTrigger: turn,
    rangeText: { fontWeight: 600 },
    table: { borderCollapse: 'separate', borderSpacing: '0', width: '100%' },
    tableHeader: { width: '38px', paddingBlock: '6px', fontSize: '12.5px', color: 'quiet', textAlign: 'center' },
    tableCellTrigger: {
      display: 'inline-flex',
      alignItems: 'center',
      justifyContent: 'center',
      minWidth: '38px',
      minHeight: '34px',
      borderRadius: '6px',
      cursor: 'pointer',
      _hover: { bg: 'sunk' },
      _today: { fontWeight: 600, textDecoration: 'underline', textUnderlineOffset: '3px' },
      _disabled: { opacity: 0.4, cursor: 'default' },
      '&[data-outside-range]': { color: 'quiet' },
      '&[data-selected]': { bg: 'pine', color: 'onPine' },
      '[data-view=month] &, [data-view=year] &': { width: '66px' },
    },
  },
});

export const slotRecipes = { combobox, field, datePicker };
