import '@fontsource-variable/noto-sans';
import '@fontsource-variable/noto-sans-arabic';
import '@fontsource-variable/noto-sans-devanagari';
import '@fontsource-variable/noto-sans-hebrew';
import '@fontsource-variable/noto-sans-jp';
import '@fontsource-variable/noto-sans-kr';
import '@fontsource-variable/noto-sans-sc';
import '@fontsource-variable/noto-sans-tc';
import '@fontsource-variable/noto-sans-thai';
import '@fontsource-variable/noto-serif';

// Which fonts there are for letters beyond our own hands: four hundred kilobytes of ranges, loaded when the first such
// letter is on a page. The browser then takes only the pieces that it draws.
