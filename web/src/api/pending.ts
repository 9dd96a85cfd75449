/** Keys of writes whose answer has not come: in the tab's own storage, so that a page that is reloaded can ask. */

const NAME = "pukka-pending";

function read(): string[] {
  try {
    return JSON.parse(sessionStorage.getItem(NAME) ?? "[]") as string[];
  } catch {
    return [];
  }
}

/** Those of before this page was loaded. */
export const left: readonly string[] = read();

function write(keys: string[]) {
  try {
    sessionStorage.setItem(NAME, JSON.stringify(keys));
  } catch {
    // Without storage only a reload in mid-write stays unexplained.
  }
}

export const add = (key: string) => write([...read(), key]);

export const remove = (key: string) => write(read().filter((known) => known !== key));
