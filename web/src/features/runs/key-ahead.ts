/** What a key press says of the line before the browser has put its character in. */
interface Pressed {
  key: string;
  ctrlKey: boolean;
  altKey: boolean;
  metaKey: boolean;
}

/** Where the characters of a line go. */
interface Field {
  value: string;
  selectionStart: number | null;
  selectionEnd: number | null;
  maxLength: number;
}

/**
 * The line as it will be after a key, where that is sure: a figure behind what is there. Null otherwise: an empty line has shortcuts of
 * its own, and letters may be composed.
 */
export function lineAhead({ key, ctrlKey, altKey, metaKey }: Pressed, field: Field): string | null {
  const { value, selectionStart, selectionEnd, maxLength } = field;
  const atEnd = selectionStart === value.length && selectionEnd === value.length && value.length < maxLength;
  const sure = /^[0-9. ]$/.test(key) && value.trim() !== "" && atEnd && !ctrlKey && !altKey && !metaKey;
  return sure ? value + key : null;
}
