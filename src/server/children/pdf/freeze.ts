import { PDFArray, PDFDict, PDFHexString, PDFName, PDFRef, PDFString } from '@cantoo/pdf-lib';
import type { Field } from '@/core/page/fields';
import { unreachable } from '@/core/unreachable';
import { embedFont, type FieldFont, fieldFonts } from './fonts';
import { pagesOf, sizesOf, type WidgetGeometry, widgetGeometry } from './pages';
import { type FormField, findingsIn } from './policy';
import { name, numberIn, PdfRefused, Revision } from './revision';

// Lays fields on a file in one increment (ISO 32000-2, 12.7): nothing of a page's content is touched, then or later.

const readOnly = 1;
const multiline = 1 << 12;
const pushButton = 1 << 16;
/** Print, and locked against moving. */
const annotationFlags = 132;
export const inkOperands = '0.09 0.141 0.169';

/** The name under which our fields stand in the form; free in the file. */
function rootName(taken: ReadonlySet<string>): string {
  for (let i = 1; ; i += 1) {
    const candidate = i === 1 ? 'avenda' : `avenda${i}`;
    if (!taken.has(candidate)) return candidate;
  }
}

export function appearance(
  revision: Revision,
  { box, matrix }: Pick<WidgetGeometry, 'box' | 'matrix'>,
  content: string,
  resources: object = {},
): PDFRef {
  return revision.add(
    revision.context.flateStream(content, {
      Type: 'XObject',
      Subtype: 'Form',
      FormType: 1,
      BBox: box,
      Matrix: matrix,
      Resources: resources,
    } as never),
  );
}

/** A tick as it is drawn into its field. */
function tickContent(width: number, height: number): string {
  const at = (x: number, y: number) => `${(width * x).toFixed(2)} ${(height * y).toFixed(2)}`;
  return `q ${inkOperands} RG ${Math.max(1, width * 0.1).toFixed(2)} w 1 J ${at(0.2, 0.5)} m ${at(0.42, 0.25)} l ${at(0.82, 0.78)} l S Q`;
}

/** A page object that stands twice gets a copy of its own for the second place, before anybody has signed. */
export function separateTwins(revision: Revision, signed: readonly FormField[]): void {
  for (const page of pagesOf(revision).filter((one) => one.twin)) {
    if (signed.length > 0) throw new PdfRefused('page-twice-signed');
    const copy = PDFDict.withContext(revision.context);
    // The other keeps the annotations and its part in the structure: each belongs to one page.
    for (const [key, value] of page.dict.entries())
      if (!['StructParents', 'B', 'Annots'].includes(key.decodeText())) copy.set(key, value);
    copy.set(name('Parent'), page.parent);
    const ref = revision.add(copy);
    const parent = revision.touch(page.parent);
    const kids = PDFArray.withContext(revision.context);
    revision.list(parent, 'Kids').forEach((kid, i) => {
      kids.push(i === page.index ? ref : kid);
    });
    parent.set(name('Kids'), kids);
  }
}

/**
 * The file with its fields laid on it, in one increment behind its end. Each seat's fields hang under a node of its own;
 * a hand mark is a button without a value, because an unsigned signature field is drawn by no reader. Fields that the
 * file had before become read-only. Throws when the file cannot take fields.
 */
export async function freeze(bytes: Uint8Array, fields: readonly Field[]): Promise<Buffer> {
  const revision = new Revision(bytes);
  if (fields.length === 0) return revision.bytes;
  const { context } = revision;
  const findings = findingsIn(revision, pagesOf(revision));
  if (findings.noFields) throw new PdfRefused('no-fields', findings.noFields);
  separateTwins(revision, findings.signed);
  const pages = pagesOf(revision);
  const sizes = sizesOf(pages);
  const form = formOf(revision, findings.form);
  form.delete(name('NeedAppearances'));
  form.set(name('SigFlags'), context.obj((numberIn(form, 'SigFlags') ?? 0) | 3));
  await shareFonts(revision, form);

  const root = context.obj({ T: PDFHexString.fromText(rootName(findings.names)) });
  const rootRef = revision.add(root);
  const seats = new Map<string, { ref: PDFRef; kids: PDFArray }>();
  const seatNode = (seat: string) => {
    let node = seats.get(seat);
    if (!node) {
      const kids = PDFArray.withContext(context);
      const dict = context.obj({ T: PDFHexString.fromText(seat), Parent: rootRef });
      dict.set(name('Kids'), kids);
      node = { ref: revision.add(dict), kids };
      seats.set(seat, node);
    }
    return node;
  };
  const onPages = new Map<number, PDFRef[]>();
  for (const field of fields) {
    const page = pages[field.page];
    const size = sizes[field.page];
    if (!page || !size || field.x + field.width > size.width + 1 || field.y + field.height > size.height + 1)
      throw new PdfRefused('off-page', field.id);
    const geometry = widgetGeometry(page.geometry, field);
    const node = seatNode(field.seat);
    const { rotate } = page.geometry;
    const base = {
      Type: 'Annot',
      Subtype: 'Widget',
      Rect: geometry.rect,
      P: page.ref,
      F: annotationFlags,
      Parent: node.ref,
      T: PDFHexString.fromText(field.id),
      TU: PDFHexString.fromText(field.label || field.kind),
      MK: rotate ? { R: rotate } : {},
      BS: { W: 0 },
      H: 'N',
    };
    const ref = revision.add(context.obj({ ...base, ...kindEntries(revision, field, geometry) } as never));
    node.kids.push(ref);
    onPages.set(field.page, [...(onPages.get(field.page) ?? []), ref]);
  }
  const nodes = PDFArray.withContext(context);
  for (const { ref } of seats.values()) nodes.push(ref);
  root.set(name('Kids'), nodes);
  const top = PDFArray.withContext(context);
  for (const old of revision.list(form, 'Fields')) top.push(old);
  top.push(rootRef);
  form.set(name('Fields'), top);
  if (findings.signed.length === 0)
    for (const old of findings.fields)
      if (old.ref instanceof PDFRef && old.kind !== 'Sig' && (old.flags & readOnly) === 0)
        revision.touch(old.ref).set(name('Ff'), context.obj(old.flags | readOnly));
  for (const [index, refs] of onPages) {
    const page = pages[index];
    if (!page) continue;
    // Always an array of the page's own: one that stands by itself may be shared between pages.
    const annotations = PDFArray.withContext(context);
    for (const old of revision.list(page.dict, 'Annots')) annotations.push(old);
    for (const ref of refs) annotations.push(ref);
    revision.touch(page.ref).set(name('Annots'), annotations);
  }
  return revision.save();
}

/** What a field's dictionary says by its kind: text and dates, ticks, hand marks. */
function kindEntries(revision: Revision, field: Field, geometry: WidgetGeometry): object {
  const empty = () => appearance(revision, geometry, '');
  switch (field.kind) {
    case 'tick': {
      const on = appearance(revision, geometry, tickContent(geometry.box[2], geometry.box[3]));
      return { FT: 'Btn', Ff: 0, V: 'Off', AS: 'Off', AP: { N: { Yes: on, Off: empty() } } };
    }
    case 'signature':
    case 'initials':
      return { FT: 'Btn', Ff: pushButton, AP: { N: empty() } };
    case 'signedOn':
    case 'date':
    case 'name':
    case 'jobTitle':
    case 'company':
    case 'email':
    case 'text':
      return {
        FT: 'Tx',
        Ff: field.height > 30 ? multiline : 0,
        DA: PDFString.of(`/AvText 0 Tf ${inkOperands} rg`),
        AP: { N: empty() },
      };
    default:
      return unreachable(field.kind, 'kind of field');
  }
}

/** The file's form, made when it has none, in the increment either way. */
function formOf(revision: Revision, form: PDFDict | undefined): PDFDict {
  if (!form) {
    const made = revision.context.obj({});
    revision.touch(revision.root).set(name('AcroForm'), revision.add(made));
    return made;
  }
  const ref = revision.dict(revision.root).get(name('AcroForm'));
  if (ref instanceof PDFRef) return revision.touch(ref);
  revision.touch(revision.root);
  return form;
}

/** A dictionary of the same entries, of the increment's own. */
export function copyOf(revision: Revision, old: PDFDict | undefined): PDFDict {
  const copy = PDFDict.withContext(revision.context);
  if (old) for (const [key, value] of old.entries()) copy.set(key, value);
  return copy;
}

/** Gives the form our fonts, in copies of its resources: the old ones may be shared with a page. */
async function shareFonts(revision: Revision, form: PDFDict): Promise<void> {
  const resources = copyOf(revision, revision.inner(form, 'DR'));
  const fonts = copyOf(revision, revision.inner(resources, 'Font'));
  for (const font of Object.keys(fieldFonts) as FieldFont[])
    fonts.set(PDFName.of(font), await embedFont(revision, font));
  resources.set(name('Font'), fonts);
  form.set(name('DR'), resources);
}
