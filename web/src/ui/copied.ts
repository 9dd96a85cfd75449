/** What a figure on screen is set with, in a form that a spreadsheet reads: no narrow spaces, a plain minus. */
export function plainFigures(text: string): string {
  return text
    .replace(/(\d)[\u202f\u00a0](?=\d{3}(?!\d))/g, "$1")
    .replace(/[\u202f\u00a0]/g, " ")
    .replace(/\u2212(?=\d)/g, "-");
}
