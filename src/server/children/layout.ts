import pdfmake from 'pdfmake';
import type { TDocumentDefinitions } from 'pdfmake/interfaces';
import { documentFamilies } from '../letters/documentText';
import { fontFiles } from './fonts';

export const quietInk = '#55636B';

/** Lays a document out with the fonts that ship with the application; nothing else is read, nothing is fetched. */
export async function withFonts(definition: TDocumentDefinitions): Promise<Buffer> {
  pdfmake.setFonts(documentFamilies);
  pdfmake.setUrlAccessPolicy(() => false);
  const ours = new Set<string>(Object.values(fontFiles));
  pdfmake.setLocalAccessPolicy((path: string) => ours.has(path));
  return pdfmake.createPdf(definition).getBuffer();
}
