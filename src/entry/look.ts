import { writeFileSync } from 'node:fs';
import { themeSheet } from '@/ui/theme/sheet';

// Part of the build: the theme's style sheet is made once, as a file that browsers keep, and not with every page.
writeFileSync(process.argv[2] as string, themeSheet());
