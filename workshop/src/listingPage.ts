/** The workshop's own page: what is published, with share codes. Plain HTML, no scripts. */

export interface Listed {
  shareCode: string;
  title: string;
  description: string;
  version: string;
  profile: string;
  authors: string[];
  credits: { author: string; work: string; licence: string }[];
  bytes: number;
  publishedAt: string;
  downloads: number;
}

const escape = (text: string): string => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

const STYLE = `
  :root { color-scheme: light dark; --ground: #f6f1ea; --card: #fffdf9; --ink: #2b2133; --faint: #665a70; --line: #d9cfe0; --code: #eee6f4; }
  @media (prefers-color-scheme: dark) { :root { --ground: #1d1622; --card: #281f2f; --ink: #efe8f4; --faint: #b9abc6; --line: #45384f; --code: #35293f; } }
  body { margin: 0; background: var(--ground); color: var(--ink); font: 16px/1.5 Georgia, "Times New Roman", serif; }
  header, main { max-width: 60rem; margin: 0 auto; padding: 1.5rem; }
  h1 { font-size: 1.6rem; margin: 0; } header p { margin: .25rem 0 0; color: var(--faint); }
  article { display: grid; grid-template-columns: 240px 1fr; gap: 1.25rem; background: var(--card); border: 1px solid var(--line); margin: 0 0 1.25rem; padding: 1rem; }
  article img { width: 240px; aspect-ratio: 16 / 9; object-fit: cover; }
  h2 { font-size: 1.2rem; margin: 0; } article p { margin: .4rem 0; } small { color: var(--faint); }
  code { background: var(--code); padding: .15em .5em; font-size: 1.05em; letter-spacing: .06em; }
  @media (max-width: 40rem) { article { grid-template-columns: 1fr; } }
`;

export function listingPage(releases: readonly Listed[]): string {
  const items = releases.map(
    (r) => `
      <article>
        <img src="/api/releases/${encodeURIComponent(r.shareCode)}/thumbnail" alt="Picture of ${escape(r.title)}">
        <div>
          <h2>${escape(r.title)} <small>${escape(r.version)}</small></h2>
          <p>${escape(r.description) || '<small>No description.</small>'}</p>
          <p>Share code <code>${escape(r.shareCode)}</code></p>
          <small>For ${escape(r.profile)} · by ${escape(r.authors.join(', ') || 'nobody named')}${r.credits.length > 0 ? ` · with work by ${escape(r.credits.map((c) => `${c.author} (${c.work}, ${c.licence})`).join('; '))}` : ''} · ${Math.ceil(r.bytes / 1024)} KiB · ${r.downloads} ${r.downloads === 1 ? 'install' : 'installs'} · ${escape(r.publishedAt.slice(0, 10))}</small>
        </div>
      </article>`,
  );
  return `<!doctype html>
<html lang="en">
  <head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Quayside Workshop</title><style>${STYLE}</style></head>
  <body>
    <header><h1>Quayside Workshop</h1><p>A stand-in workshop on this machine. ${releases.length} ${releases.length === 1 ? 'release' : 'releases'}.</p></header>
    <main>${items.join('') || '<p>Nothing is published yet. Publish a package from Violet Crate, and it shows up here.</p>'}</main>
  </body>
</html>`;
}
