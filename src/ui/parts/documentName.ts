/** What a document of several is called beside the others: its file's name without the number they share and its ending. */
export function documentName(file: string, number: string): string {
  const name = file.replace(/\.pdf$/i, '');
  const own = name.startsWith(number) ? name.slice(number.length).trim() : name;
  return own || name;
}
