import { createRequire } from 'node:module';
import path from 'node:path';

// The fonts of documents ship as packages. Their files are read where they are installed; the names are put together at
// run time, so that the build of the pages does not take them for modules of its own.
const { resolve } = createRequire(path.join(process.cwd(), 'package.json'));
const font = (family: string, cut: string, file: string) =>
  resolve(['@expo-google-fonts', family, cut, `${file}.ttf`].join('/'));

export const fontFiles = {
  serif: font('literata', '400Regular', 'Literata_400Regular'),
  serifBold: font('literata', '700Bold', 'Literata_700Bold'),
  serifItalic: font('literata', '400Regular_Italic', 'Literata_400Regular_Italic'),
  serifBoldItalic: font('literata', '700Bold_Italic', 'Literata_700Bold_Italic'),
  sans: font('hanken-grotesk', '400Regular', 'HankenGrotesk_400Regular'),
  sansBold: font('hanken-grotesk', '600SemiBold', 'HankenGrotesk_600SemiBold'),
  hand: font('caveat', '500Medium', 'Caveat_500Medium'),
  notoSerif: font('noto-serif', '400Regular', 'NotoSerif_400Regular'),
  notoSerifBold: font('noto-serif', '700Bold', 'NotoSerif_700Bold'),
  notoSerifItalic: font('noto-serif', '400Regular_Italic', 'NotoSerif_400Regular_Italic'),
  notoSerifBoldItalic: font('noto-serif', '700Bold_Italic', 'NotoSerif_700Bold_Italic'),
  noto: font('noto-sans', '400Regular', 'NotoSans_400Regular'),
  arabic: font('noto-sans-arabic', '400Regular', 'NotoSansArabic_400Regular'),
  hebrew: font('noto-sans-hebrew', '400Regular', 'NotoSansHebrew_400Regular'),
  devanagari: font('noto-sans-devanagari', '400Regular', 'NotoSansDevanagari_400Regular'),
  thai: font('noto-sans-thai', '400Regular', 'NotoSansThai_400Regular'),
  japanese: font('noto-sans-jp', '400Regular', 'NotoSansJP_400Regular'),
  korean: font('noto-sans-kr', '400Regular', 'NotoSansKR_400Regular'),
  simplified: font('noto-sans-sc', '400Regular', 'NotoSansSC_400Regular'),
  traditional: font('noto-sans-tc', '400Regular', 'NotoSansTC_400Regular'),
} as const;
