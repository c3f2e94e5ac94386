import { PDFContext, PDFDict, PDFName, PDFNumber, type PDFObject, PDFRef } from '@cantoo/pdf-lib';
import { describe, expect, it } from 'vitest';

// A file is read through its own chain of cross-references, for which the library's inside is reached into. What is relied
// on there stands here, so that another version of the library that has it otherwise is noticed before a file is.
describe('the inside of the library that a file is read with', () => {
  it('keeps objects by their references in a map of a context, and finds there what is put into it from outside', () => {
    const context = PDFContext.create();
    const objects = (context as unknown as { indirectObjects: Map<PDFRef, PDFObject> }).indirectObjects;
    expect(objects).toBeInstanceOf(Map);
    const seven = PDFRef.of(7);
    expect(context.lookup(seven)).toBeUndefined();
    objects.set(seven, PDFNumber.of(42));
    expect(context.lookup(seven)?.toString()).toBe('42');
    context.assign(PDFRef.of(8), PDFNumber.of(43));
    expect(objects.get(PDFRef.of(8))?.toString()).toBe('43');
  });

  it('asks the context for what a dictionary points to, so that it can be read when it is asked for', () => {
    const context = PDFContext.create();
    const asked: string[] = [];
    const plain = context.lookup.bind(context) as (ref: unknown, ...types: unknown[]) => PDFObject | undefined;
    (context as { lookup: unknown }).lookup = (ref: unknown, ...types: unknown[]) => {
      asked.push(String(ref));
      return ref === PDFRef.of(9) ? PDFNumber.of(1) : plain(ref, ...types);
    };
    const dictionary = PDFDict.withContext(context);
    dictionary.set(PDFName.of('Size'), PDFRef.of(9));
    expect(dictionary.lookup(PDFName.of('Size'))?.toString()).toBe('1');
    expect(dictionary.lookup(PDFName.of('Size'), PDFNumber).asNumber()).toBe(1);
    expect(asked).toEqual(['9 0 R', '9 0 R']);
  });
});
