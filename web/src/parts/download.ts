/** Hands a text to the browser as a file to keep. */
export function download(name: string, content: string, type: string): void {
  const address = URL.createObjectURL(new Blob([content], { type }));
  const link = document.createElement('a');
  link.href = address;
  link.download = name;
  link.click();
  // The browser has taken hold of the content by the time the click has been handled.
  setTimeout(() => URL.revokeObjectURL(address), 0);
}
