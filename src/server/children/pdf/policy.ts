import {
  PDFBool,
  PDFDict,
  PDFHexString,
  PDFName,
  type PDFObject,
  PDFRawStream,
  PDFRef,
  PDFString,
} from '@cantoo/pdf-lib';
import type { PdfPage } from './pages';
import { name, numberIn, PdfRefused, type Revision, unpacked } from './revision';

/** A field of a form that the file has already. */
export interface FormField {
  readonly ref: PDFObject;
  readonly dict: PDFDict;
  readonly kind: string | undefined;
  readonly flags: number;
  readonly value: PDFObject | undefined;
}

/** What a file brings along that decides what may be done with it. */
interface Findings {
  readonly form: PDFDict | undefined;
  readonly fields: readonly FormField[];
  readonly signed: readonly FormField[];
  /** The names at the top of its form. */
  readonly names: ReadonlySet<string>;
  /** Why it can take no fields; null when it can. */
  readonly noFields: string | null;
  /** What is said of it where it is submitted. */
  readonly notices: readonly string[];
}

export function textOf(object: PDFObject | undefined): string {
  return object instanceof PDFString || object instanceof PDFHexString ? object.decodeText() : '';
}

function nameOf(object: PDFObject | undefined): string | undefined {
  return object instanceof PDFName ? object.decodeText() : undefined;
}

/** Actions that run something, send something or fetch something (ISO 32000-2, 12.6). */
const active = new Set([
  'JavaScript',
  'Launch',
  'SubmitForm',
  'ImportData',
  'Rendition',
  'ResetForm',
  'GoToE',
  'RichMediaExecute',
]);

/**
 * Looks at what a file brings along. Throws what is never taken: encryption, scripts and other actions, XFA, portfolios,
 * page content that does not unpack. Tells what is worth knowing, and whether fields can be added (signatures and
 * certifications may forbid it).
 */
export function findingsIn(revision: Revision, pages: readonly PdfPage[]): Findings {
  const catalog = revision.dict(revision.root);
  if (revision.inner(catalog, 'Collection')) throw new PdfRefused('portfolio');
  const form = revision.inner(catalog, 'AcroForm');
  if (form?.has(name('XFA'))) throw new PdfRefused('xfa');
  refuseActions(revision, catalog, pages);
  refuseContents(revision, pages);
  const fields = form ? fieldsIn(revision, form) : [];
  const signed = fields.filter((field) => field.kind === 'Sig' && field.value instanceof PDFDict);
  const permissions = revision.inner(catalog, 'Perms');
  const certified = revision.inner(permissions, 'DocMDP') !== undefined;
  const names = new Set(
    (form ? revision.list(form, 'Fields') : []).map((ref) => {
      const dict = revision.get(ref);
      return dict instanceof PDFDict ? textOf(revision.get(dict.get(name('T')))) : '';
    }),
  );
  return {
    form,
    fields,
    signed,
    names,
    noFields: whyNoFields(revision, { form, signed, permissions }),
    notices: noticesIn(revision, catalog, pages, { fields, signed, certified }),
  };
}

function refuseActions(revision: Revision, catalog: PDFDict, pages: readonly PdfPage[]): void {
  const seen = new Set<PDFObject>();
  const action = (given: PDFObject | undefined, depth = 0): void => {
    const dict = revision.get(given);
    if (!(dict instanceof PDFDict) || depth > 32 || seen.has(dict)) return;
    seen.add(dict);
    const kind = nameOf(revision.get(dict.get(name('S'))));
    if (kind && active.has(kind)) throw new PdfRefused('active', kind);
    const next = revision.get(dict.get(name('Next')));
    if (next instanceof PDFDict) action(next, depth + 1);
    else for (const one of revision.list(dict, 'Next')) action(one, depth + 1);
  };
  const triggers = (dict: PDFDict | undefined): void => {
    if (!dict) return;
    action(dict.get(name('A')));
    const more = revision.inner(dict, 'AA');
    if (more) for (const [, value] of more.entries()) action(value);
  };
  action(catalog.get(name('OpenAction')));
  triggers(catalog);
  if (revision.inner(revision.inner(catalog, 'Names'), 'JavaScript')) throw new PdfRefused('active', 'JavaScript');
  for (const page of pages) {
    triggers(page.dict);
    for (const ref of revision.list(page.dict, 'Annots')) {
      const annotation = revision.get(ref);
      if (annotation instanceof PDFDict) triggers(annotation);
    }
  }
}

function refuseContents(revision: Revision, pages: readonly PdfPage[]): void {
  for (const page of pages) {
    const contents = revision.get(page.dict.get(name('Contents')));
    const streams = contents instanceof PDFRawStream ? [contents] : revision.list(page.dict, 'Contents');
    for (const ref of streams) {
      const stream = revision.get(ref);
      if (!(stream instanceof PDFRawStream)) continue;
      try {
        unpacked(stream);
      } catch (error) {
        throw error instanceof PdfRefused ? error : new PdfRefused('content', String(error));
      }
    }
  }
}

/** The terminal fields of a form (12.7.4). A field that is reached twice is a form that contradicts itself. */
function fieldsIn(revision: Revision, form: PDFDict): FormField[] {
  const found: FormField[] = [];
  const seen = new Set<PDFObject>();
  const walk = (
    ref: PDFObject,
    from: { kind?: string | undefined; flags: number; value?: PDFObject | undefined },
    depth: number,
  ): void => {
    if (ref instanceof PDFRef) {
      if (seen.has(ref)) throw new PdfRefused('form', 'a field stands in it twice');
      seen.add(ref);
    }
    const dict = revision.get(ref);
    if (!(dict instanceof PDFDict) || depth > 32) return;
    const kind = nameOf(revision.get(dict.get(name('FT')))) ?? from.kind;
    const flags = numberIn(dict, 'Ff') ?? from.flags;
    const value = dict.get(name('V')) ?? from.value;
    const kids = revision.list(dict, 'Kids');
    const named = kids.some((kid) => {
      const inner = revision.get(kid);
      return inner instanceof PDFDict && inner.has(name('T'));
    });
    if (named) for (const kid of kids) walk(kid, { kind, flags, value }, depth + 1);
    else found.push({ ref, dict, kind, flags, value: value && revision.get(value) });
  };
  for (const ref of revision.list(form, 'Fields')) walk(ref, { flags: 0 }, 0);
  return found;
}

/** What forbids adding fields: usage rights, certification, a lock, a form whose readers redraw it (12.8.2). */
function whyNoFields(
  revision: Revision,
  {
    form,
    signed,
    permissions,
  }: { form: PDFDict | undefined; signed: readonly FormField[]; permissions: PDFDict | undefined },
): string | null {
  if (permissions?.has(name('UR')) || permissions?.has(name('UR3')))
    return 'it carries usage rights that end when anything is added.';
  const values = new Set(signed.map((field) => field.value as PDFDict));
  const certification = revision.inner(permissions, 'DocMDP');
  if (certification) values.add(certification);
  for (const value of values)
    for (const ref of revision.list(value, 'Reference')) {
      const reference = revision.get(ref);
      if (!(reference instanceof PDFDict)) continue;
      const method = nameOf(revision.get(reference.get(name('TransformMethod'))));
      const parameters = revision.inner(reference, 'TransformParams');
      if (method === 'DocMDP') return 'it is certified, and adding fields would end its certification.';
      if (method === 'UR' || method === 'UR3') return 'it carries usage rights that end when anything is added.';
      if (method === 'FieldMDP' && nameOf(revision.get(parameters?.get(name('Action')))) !== 'Include')
        return 'a signature in it locks fields that do not exist yet.';
    }
  if (signed.some((field) => revision.inner(field.dict, 'Lock')?.has(name('P'))))
    return 'a signature in it locks the whole document.';
  if (form && revision.get(form.get(name('NeedAppearances'))) === PDFBool.True && signed.length > 0)
    return 'it is signed, and its form asks readers to draw it anew.';
  return null;
}

function noticesIn(
  revision: Revision,
  catalog: PDFDict,
  pages: readonly PdfPage[],
  { fields, signed, certified }: { fields: readonly FormField[]; signed: readonly FormField[]; certified: boolean },
): string[] {
  const notices: string[] = [];
  const kinds = pages.flatMap((page) =>
    revision.list(page.dict, 'Annots').flatMap((ref) => {
      const dict = revision.get(ref);
      return dict instanceof PDFDict ? (nameOf(revision.get(dict.get(name('Subtype')))) ?? []) : [];
    }),
  );
  if (kinds.some((kind) => !['Widget', 'Link', 'Popup'].includes(kind))) notices.push('annotations');
  if (kinds.includes('FileAttachment') || revision.inner(revision.inner(catalog, 'Names'), 'EmbeddedFiles'))
    notices.push('attachments');
  if (fields.some((field) => field.kind !== 'Sig')) notices.push('form');
  const layers = revision.inner(revision.inner(catalog, 'OCProperties'), 'D');
  if (
    layers &&
    (revision.list(layers, 'OFF').length > 0 || nameOf(revision.get(layers.get(name('BaseState')))) === 'OFF')
  )
    notices.push('hidden-layers');
  if (signed.length > 0) notices.push('signatures');
  if (certified) notices.push('certified');
  if (isArchival(revision, catalog)) notices.push('archival');
  if (pages.some((page) => page.twin)) notices.push('page-twice');
  return notices;
}

/** Whether the file says of itself that it is PDF/A (ISO 19005), which added fields do not keep. */
function isArchival(revision: Revision, catalog: PDFDict): boolean {
  const metadata = revision.get(catalog.get(name('Metadata')));
  if (!(metadata instanceof PDFRawStream)) return false;
  try {
    return Buffer.from(unpacked(metadata)).toString('utf8').includes('pdfaid:part');
  } catch {
    return false;
  }
}
