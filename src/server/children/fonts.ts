import { createRequire } from 'node:module';

// The fonts of documents ship as packages; the files themselves are read where they are installed.
const require = createRequire(import.meta.url);

export const fontFiles = {
  serif: require.resolve('@expo-google-fonts/literata/400Regular/Literata_400Regular.ttf'),
  serifBold: require.resolve('@expo-google-fonts/literata/700Bold/Literata_700Bold.ttf'),
  serifItalic: require.resolve('@expo-google-fonts/literata/400Regular_Italic/Literata_400Regular_Italic.ttf'),
  serifBoldItalic: require.resolve('@expo-google-fonts/literata/700Bold_Italic/Literata_700Bold_Italic.ttf'),
  sans: require.resolve('@expo-google-fonts/hanken-grotesk/400Regular/HankenGrotesk_400Regular.ttf'),
  sansBold: require.resolve('@expo-google-fonts/hanken-grotesk/600SemiBold/HankenGrotesk_600SemiBold.ttf'),
  hand: require.resolve('@expo-google-fonts/caveat/500Medium/Caveat_500Medium.ttf'),
} as const;
