/** Light or dark: as chosen here, else as the system says. */
export type Theme = "light" | "dark";

const KEY = "pukka-theme";

export function currentTheme(): Theme {
  const chosen = localStorage.getItem(KEY);
  if (chosen === "light" || chosen === "dark") return chosen;
  return matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
}

export function applyTheme(theme: Theme = currentTheme()) {
  document.documentElement.classList.toggle("dark", theme === "dark");
}

export function chooseTheme(theme: Theme) {
  localStorage.setItem(KEY, theme);
  applyTheme(theme);
}
