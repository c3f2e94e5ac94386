/** Has the browser keep a text as a file. */
export function download(name: string, text: string, mediaType: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([text], { type: mediaType }));
  link.download = name;
  link.click();
  // A browser may begin to read it only after the press has been dealt with.
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}
