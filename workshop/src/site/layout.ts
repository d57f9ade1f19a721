import type { Account } from '../accounts/accounts.service.ts';
import { html, type Html } from './html.ts';

export interface PageOf {
  title: string;
  viewer: Account | null;
  /** What has just happened, or went wrong. */
  told?: string;
  wrong?: string;
}

/** Every page of the site. It is read without any script; the one that it has copies share codes. */
export const layout = ({ title, viewer, told, wrong }: PageOf, body: Html): string =>
  html`<!doctype html>
    <html lang="en">
      <head>
        <meta charset="utf-8" />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <title>${title} · Quayside Workshop</title>
        <link rel="stylesheet" href="/site.css" />
        <script src="/site.js" defer></script>
      </head>
      <body>
        <a class="skip" href="#main">To the content</a>
        <header class="top">
          <a class="name" href="/">Quayside Workshop</a>
          <nav aria-label="Site">
            ${
              viewer
                ? html`<a href="/account">${viewer.name}</a>${viewer.moderator ? html`<a href="/moderation">Reports</a>` : ''}
                    <form method="post" action="/sign-out"><button class="plain">Sign out</button></form>`
                : html`<a href="/sign-in">Sign in</a><a href="/sign-up">Sign up</a>`
            }
          </nav>
        </header>
        <main id="main">
          ${told ? html`<p class="told" role="status">${told}</p>` : ''}${wrong ? html`<p class="wrong" role="alert">${wrong}</p>` : ''} ${body}
        </main>
        <footer class="bottom"><a href="/terms">Terms</a> · <a href="/mailbox">Mailbox of this stand-in</a></footer>
      </body>
    </html>`.text;

export const STYLE = `
:root { color-scheme: light dark; --ground: #f4efe6; --card: #fffdf8; --ink: #2a2430; --faint: #655b66; --line: #d8cdbd; --link: #6b3f14; --mark: #f0e4d2; --bad: #9c2a1c; --good: #22603f; }
@media (prefers-color-scheme: dark) { :root { --ground: #1b1916; --card: #26231f; --ink: #f1eadf; --faint: #b9ad9d; --line: #4a4238; --link: #e9b878; --mark: #393127; --bad: #ffa394; --good: #96d3ad; } }
* { box-sizing: border-box; }
body { margin: 0; background: var(--ground); color: var(--ink); font: 1rem/1.55 Georgia, "Times New Roman", serif; overflow-wrap: break-word; }
a { color: var(--link); } :focus-visible { outline: 3px solid var(--link); outline-offset: 2px; }
.skip { position: absolute; left: -99rem; } .skip:focus { left: 1rem; top: .5rem; background: var(--card); padding: .3rem .6rem; }
.top, main, .bottom { max-width: 66rem; margin: 0 auto; padding: 1rem; }
.top { display: flex; flex-wrap: wrap; gap: .5rem 1.5rem; align-items: baseline; border-bottom: 3px double var(--line); }
.top .name { font-size: 1.4rem; font-weight: bold; color: var(--ink); text-decoration: none; } .top nav { margin-left: auto; display: flex; gap: 1rem; align-items: baseline; flex-wrap: wrap; }
.top form { display: inline; } .bottom { border-top: 1px solid var(--line); color: var(--faint); margin-top: 2rem; }
h1 { font-size: 1.75rem; line-height: 1.2; margin: .4rem 0; } h2 { font-size: 1.2rem; margin: 1.6rem 0 .4rem; border-bottom: 1px solid var(--line); }
.faint, small { color: var(--faint); } .told { background: var(--mark); padding: .5rem .8rem; border-left: 4px solid var(--good); } .wrong { background: var(--mark); padding: .5rem .8rem; border-left: 4px solid var(--bad); }
.find { display: flex; flex-wrap: wrap; gap: .5rem; margin: 1rem 0; } .find input { flex: 1 1 12rem; }
input, select, textarea, button { font: inherit; color: inherit; background: var(--card); border: 1px solid var(--faint); padding: .35rem .6rem; max-width: 100%; }
textarea { width: 100%; min-height: 5rem; } button, .button { cursor: pointer; background: var(--mark); display: inline-block; border: 1px solid var(--faint); padding: .35rem .8rem; text-decoration: none; color: var(--ink); }
button.plain { background: none; border: 0; padding: 0; color: var(--link); text-decoration: underline; } button.bad { color: var(--bad); border-color: var(--bad); }
label { display: block; margin: .6rem 0; } label > input, label > select { display: block; width: 100%; max-width: 24rem; } label.row { display: inline-flex; gap: .4rem; align-items: center; } label.row input { display: inline; width: auto; }
.shelf { display: grid; grid-template-columns: repeat(auto-fill, minmax(min(100%, 15.5rem), 1fr)); gap: 1.1rem; padding: 0; list-style: none; }
.shelf li { background: var(--card); border: 1px solid var(--line); display: flex; flex-direction: column; }
.shelf img, .lead img { width: 100%; aspect-ratio: 16 / 9; object-fit: cover; display: block; background: var(--mark); }
.shelf .words { padding: .6rem .8rem .8rem; } .shelf h2 { margin: 0; border: 0; font-size: 1.1rem; } .shelf p { margin: .3rem 0; }
.lead { display: grid; grid-template-columns: minmax(0, 3fr) minmax(0, 2fr); gap: 1.4rem; } @media (max-width: 44rem) { .lead { grid-template-columns: minmax(0, 1fr); } }
.gallery { display: grid; grid-template-columns: repeat(auto-fill, minmax(min(100%, 9rem), 1fr)); gap: .5rem; margin-top: .5rem; }
dl { display: grid; grid-template-columns: max-content minmax(0, 1fr); gap: .2rem .9rem; margin: .5rem 0; } dt { color: var(--faint); } dd { margin: 0; }
code, .code { font-family: ui-monospace, "DejaVu Sans Mono", monospace; background: var(--mark); padding: .1em .45em; } .code { font-size: 1.35rem; letter-spacing: .06em; }
table { border-collapse: collapse; width: 100%; } th, td { text-align: left; padding: .35rem .6rem .35rem 0; border-bottom: 1px solid var(--line); vertical-align: top; } .wide { overflow-x: auto; }
.tag { display: inline-block; border: 1px solid var(--line); padding: 0 .5rem; margin: 0 .2rem .2rem 0; font-size: .9rem; } .met::before { content: "✓ "; color: var(--good); } .unmet::before { content: "✗ "; color: var(--bad); }
ul.plain { list-style: none; padding: 0; } .comment { border-bottom: 1px solid var(--line); padding: .5rem 0; } .comment p { white-space: pre-wrap; margin: .2rem 0; } .describe { max-width: 44rem; } .row { display: flex; flex-wrap: wrap; gap: .5rem; align-items: end; }
[hidden] { display: none; }
`;

/** Shows the copy buttons, which are nothing without a script. */
export const SCRIPT = `for (const button of document.querySelectorAll('[data-copy]')) {
  button.hidden = false;
  button.addEventListener('click', () => navigator.clipboard.writeText(button.dataset.copy).then(() => { button.textContent = 'Copied'; }));
}`;
