import {
  Autocomplete,
  type CSSVariablesResolver,
  createTheme,
  type MantineColorsTuple,
  Menu,
  MultiSelect,
  Portal,
  Select,
  TagsInput,
} from '@mantine/core';
import { DateInput, DatePickerInput } from '@mantine/dates';

/** Madder: the one colour of what can be acted on. */
const madder: MantineColorsTuple = [
  '#fbeee8',
  '#f3d9cd',
  '#e8bba6',
  '#dd9c7d',
  '#e0a07c',
  '#c96a45',
  '#b4532f',
  '#9c4425',
  '#86391e',
  '#6d2d17',
];

/** Greys of paper and ink, so that no border of a field is bluish. */
const gray: MantineColorsTuple = [
  '#faf6ec',
  '#f1eadb',
  '#e5dcc8',
  '#d9d0bb',
  '#cabfa6',
  '#a79c84',
  '#7d7462',
  '#5d574a',
  '#403c33',
  '#26241f',
];
const dark: MantineColorsTuple = [
  '#e9e4d6',
  '#cfc9b9',
  '#b0aa98',
  '#7d7b6f',
  '#565b57',
  '#474c49',
  '#333836',
  '#252928',
  '#1c1f1e',
  '#151716',
];

/** For what Source Sans lacks, whatever fonts the machine has; symbols are looked for among the letters first. */
const OTHER_SCRIPTS =
  "'Noto Sans JP Variable', 'Noto Emoji Variable', 'Noto Sans Arabic Variable', 'Noto Sans Devanagari Variable'";

/** The element that holds open lists, menus and dialogs: a landmark, so that assistive technology finds them. */
export const OVERLAYS = 'overlays';

/** The list itself is scrolled: as the list box of its field it needs no focus of its own. */
const LIST = { withScrollArea: false, styles: { options: { maxHeight: 260, overflowY: 'auto' } } } as const;

const CALENDAR = {
  ariaLabels: { previousMonth: 'Previous month', nextMonth: 'Next month', monthLevelControl: 'Choose a month' },
  hideOutsideDates: true,
  /** Sundays look like other days. */
  weekendDays: [],
};

export const theme = createTheme({
  components: {
    Portal: Portal.extend({ defaultProps: { target: `#${OVERLAYS}` } }),
    // A menu has nothing but items: the first has the focus once it is open.
    Menu: Menu.extend({ defaultProps: { withInitialFocusPlaceholder: false } }),
    Select: Select.extend({ defaultProps: LIST }),
    MultiSelect: MultiSelect.extend({ defaultProps: LIST }),
    Autocomplete: Autocomplete.extend({ defaultProps: LIST }),
    TagsInput: TagsInput.extend({ defaultProps: LIST }),
    DateInput: DateInput.extend({ defaultProps: CALENDAR }),
    DatePickerInput: DatePickerInput.extend({ defaultProps: CALENDAR }),
  },
  colors: { madder, gray, dark },
  primaryColor: 'madder',
  primaryShade: { light: 8, dark: 6 },
  autoContrast: true,
  luminanceThreshold: 0.4,
  fontFamily: `'Source Sans 3 Variable', ${OTHER_SCRIPTS}, sans-serif`,
  fontFamilyMonospace: `'Source Code Pro Variable', ${OTHER_SCRIPTS}, monospace`,
  fontSizes: { xs: '12.5px', sm: '13.5px', md: '15px', lg: '17px', xl: '20px' },
  headings: {
    fontWeight: '600',
    sizes: { h1: { fontSize: '22px' }, h2: { fontSize: '17px' }, h3: { fontSize: '15px' } },
  },
  defaultRadius: 3,
  respectReducedMotion: true,
  cursorType: 'pointer',
});

export const variables: CSSVariablesResolver = () => ({
  variables: {},
  light: {
    '--mantine-color-body': '#f8f4ea',
    '--mantine-color-text': '#26241f',
    '--mantine-color-dimmed': '#5d574a',
    '--mantine-color-default': '#fcfaf4',
    '--mantine-color-default-border': '#cfc5ae',
    '--mantine-color-placeholder': '#6f685a',
  },
  dark: {
    '--mantine-color-body': '#1c1f1e',
    '--mantine-color-text': '#e9e4d6',
    '--mantine-color-dimmed': '#b0aa98',
    '--mantine-color-default': '#252827',
    '--mantine-color-default-border': '#474c49',
    '--mantine-color-placeholder': '#9c9786',
  },
});
