import { createSystem, defaultBaseConfig, defineConfig } from '@chakra-ui/react';
import { slotRecipes } from './slotRecipes';

/** The look of Avenda, all of it: every colour of the application stands here, once for light and once for dark. */
const colours = {
  ground: ['#FAF8F3', '#15191A'],
  surface: ['#FFFFFF', '#1D2324'],
  sunk: ['#F2EEE5', '#101415'],
  hairline: ['#E4DED2', '#343B3B'],
  edge: ['#C9C1B0', '#4A5252'],
  ink: ['#17242B', '#ECE8DE'],
  quiet: ['#55636B', '#A7B0AE'],
  ahead: ['#857E6E', '#938F83'],
  earth: ['#EEEADF', '#21282A'],
  pine: ['#14524A', '#83C7B7'],
  pineSoft: ['#E3EDE8', '#1F3733'],
  onPine: ['#FFFFFF', '#0E1A18'],
  copper: ['#B4552D', '#E7A07A'],
  copperText: ['#A3481F', '#E7A07A'],
  copperSoft: ['#F8E8DE', '#3B2A20'],
  oxblood: ['#8B1E2D', '#F0959B'],
  oxbloodSoft: ['#F6E4E4', '#3D2326'],
  onOxblood: ['#FFFFFF', '#241012'],
  iris: ['#4B4FA6', '#AEB1F2'],
  irisSoft: ['#E9E9F6', '#2A2C47'],
  onIris: ['#FFFFFF', '#131428'],
  tile1: ['#DCE7EC', '#2B3A41'],
  tile2: ['#EFE3CF', '#40382A'],
  tile3: ['#E3DCEC', '#373042'],
  tile4: ['#F0DBD5', '#43312D'],
  tile5: ['#DDE8D3', '#333D2C'],
  tile6: ['#E6E0D6', '#3A3731'],
  page: ['#FFFFFF', '#FFFFFF'],
  pageInk: ['#17242B', '#17242B'],
} as const;

const semantic = Object.fromEntries(
  Object.entries(colours).map(([name, [light, dark]]) => [name, { value: { _light: light, _dark: dark } }]),
);

/**
 * Letters that our own hands lack come from these, on screen as in the files (server/letters); Han letters by language. They
 * are named only where such a letter has come (Letters.tsx): a browser looks for each name before it draws the first word.
 */
const scripts = ['Noto Sans', 'Noto Sans Arabic', 'Noto Sans Hebrew', 'Noto Sans Devanagari', 'Noto Sans Thai'];
const han = { 'zh-Hans': 'Noto Sans SC', 'zh-Hant': 'Noto Sans TC', ja: 'Noto Sans JP', ko: 'Noto Sans KR' } as const;
const family = (own: readonly string[], kind: string, first: keyof typeof han = 'zh-Hans') =>
  [...own, ...scripts, han[first], ...Object.values(han).filter((font) => font !== han[first])]
    .map((font) => `"${font} Variable"`)
    .concat(kind)
    .join(', ');
const sans = (first?: keyof typeof han) => family(['Hanken Grotesk'], 'sans-serif', first);
const own = (font: string, kind: string) => `"${font} Variable", ${kind}`;

/** The class of a document in which a letter of another script has come. */
export const otherScripts = 'other-scripts';

// Only what our pages are drawn with stands on the library's bare system: its own theme would be worked out in every browser
// before the first row is painted.
const config = defineConfig({
  preflight: true,
  globalCss: {
    '*::placeholder': { color: 'quiet' },
    'html, body': { bg: 'ground', color: 'ink', fontSize: '14px', lineHeight: '1.45' },
    body: { fontFamily: 'body', fontFeatureSettings: '"tnum" 1' },
    [`.${otherScripts}`]: {
      '--chakra-fonts-body': sans(),
      '--chakra-fonts-heading': sans(),
      '--chakra-fonts-serif': family(['Literata', 'Noto Serif'], 'serif'),
    },
    [`.${otherScripts} :lang(ja)`]: { fontFamily: sans('ja') },
    [`.${otherScripts} :lang(ko)`]: { fontFamily: sans('ko') },
    [`.${otherScripts} :lang(zh-Hant)`]: { fontFamily: sans('zh-Hant') },
    'h1, h2, h3': { fontWeight: 600 },
    '*:focus-visible': { outline: '2px solid', outlineColor: 'pine', outlineOffset: '2px', borderRadius: '4px' },
    '::selection': { bg: 'pineSoft' },
    'button, a, [role=button]': { WebkitTapHighlightColor: 'transparent' },
    '*': {
      '--global-font-body': 'fonts.body',
      '--global-color-border': 'colors.hairline',
      _motionReduce: { transitionDuration: '0s', animationDuration: '0s' },
    },
  },
  theme: {
    breakpoints: { sm: '480px', md: '768px', lg: '1024px' },
    slotRecipes,
    tokens: {
      fonts: {
        body: { value: own('Hanken Grotesk', 'sans-serif') },
        heading: { value: own('Hanken Grotesk', 'sans-serif') },
        serif: { value: own('Literata', 'serif') },
      },
    },
    semanticTokens: { colors: semantic },
  },
});

export const system = createSystem(defaultBaseConfig, config);

export type Colour = keyof typeof colours;

/** A colour of the theme for places that take plain CSS, such as drawings. */
export function ink(colour: Colour): string {
  return `var(--chakra-colors-${colour.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`)})`;
}
