export type Theme = 'dark' | 'light';

const KEY = 'violet-crate-theme';

export const storedTheme = (): Theme => (localStorage.getItem(KEY) === 'light' ? 'light' : 'dark');

export function applyTheme(theme: Theme): void {
  document.documentElement.dataset.bsTheme = theme;
  localStorage.setItem(KEY, theme);
  window.dispatchEvent(new Event('themechange'));
}

/** The theme's colour behind a CSS variable, for canvases. */
export const themeColour = (name: string): string => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
