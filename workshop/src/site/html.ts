/** HTML by templates: whatever is put into one is text, unless it is HTML of a template itself. */

export class Html {
  constructor(readonly text: string) {}
}

type Part = string | number | Html | null | undefined | false | readonly Part[];

const escapeText = (text: string): string => text.replace(/[&<>"']/g, (char) => `&#${char.charCodeAt(0)};`);

function written(part: Part): string {
  if (part === null || part === undefined || part === false) return '';
  if (part instanceof Html) return part.text;
  if (Array.isArray(part)) return (part as readonly Part[]).map(written).join('');
  return escapeText(String(part));
}

export const html = (strings: TemplateStringsArray, ...parts: Part[]): Html =>
  new Html(strings.reduce((text, piece, i) => text + written(parts[i - 1]) + piece));

/** HTML that something else has made safe. */
export const trusted = (text: string): Html => new Html(text);
