/** The pages that everybody sees: what there is, and one mod of it. */

import { htmlOfMarkdown } from '@violet-crate/core/release/markdown';
import { fingerprint } from '@violet-crate/core/release/signature';
import type { ModCard, Mod, Search, Version } from '../mods/mods.service.ts';
import { html, trusted, type Html } from './html.ts';

export const day = (at: string): string => at.slice(0, 10);
const size = (bytes: number): string => (bytes < 1 << 20 ? `${Math.ceil(bytes / 1024)} KiB` : `${(bytes / (1 << 20)).toFixed(1)} MiB`);
const stars = (mean: number | null): string => (mean === null ? 'not rated yet' : `${mean.toFixed(1)} of 5 stars`);
const counted = (count: number, one: string): string => `${count} ${count === 1 ? one : `${one}s`}`;

export const shelf = (cards: readonly ModCard[]): Html =>
  html`<ul class="shelf">
    ${cards.map(
      (card) =>
        html`<li>
          <img src="/api/releases/${card.shareCode}/thumbnail" alt="" loading="lazy" />
          <div class="words">
            <h2><a href="/mods/${card.name}">${card.title}</a></h2>
            <p>${card.summary || html`<span class="faint">No description.</span>`}</p>
            <p>
              <small
                >${card.version} · for ${card.profile} · by ${card.organisation} · ${counted(card.downloads, 'download')} ·
                ${stars(card.stars)}</small
              >
            </p>
            ${card.tags.map((tag) => html`<a class="tag" href="/?tag=${encodeURIComponent(tag)}">${tag}</a>`)}
          </div>
        </li>`,
    )}
  </ul>`;

export function frontPage({ cards, total }: { cards: ModCard[]; total: number }, asked: Search, profiles: readonly string[]): Html {
  const page = asked.page ?? 0;
  const to = (number: number) =>
    `/?${new URLSearchParams(Object.entries({ q: asked.query, profile: asked.profile, tag: asked.tag, sort: asked.sort, page: String(number) }).filter((entry): entry is [string, string] => Boolean(entry[1]))).toString()}`;
  const option = (value: string, words: string, chosen: string | undefined) =>
    html`<option value="${value}" ${chosen === value ? html` selected` : ''}>${words}</option>`;
  return html`<h1>Mods for made-up games</h1>
    <form class="find" method="get" action="/" role="search">
      <input type="search" name="q" value="${asked.query ?? ''}" placeholder="Search" aria-label="Search" />
      <select name="profile" aria-label="Game">
        ${option('', 'All games', asked.profile ?? '')}${profiles.map((profile) => option(profile, profile, asked.profile))}
      </select>
      <select name="sort" aria-label="Order">
        ${option('new', 'Newest first', asked.sort)}${option('liked', 'Best rated first', asked.sort)}${option('used', 'Most downloaded first', asked.sort)}
      </select>
      ${asked.tag ? html`<label class="row"><input type="checkbox" name="tag" value="${asked.tag}" checked />${asked.tag}</label>` : ''}
      <button>Find</button>
    </form>
    <p class="faint">
      ${total === 0 ? (asked.query || asked.profile || asked.tag ? 'Nothing fits. Try fewer words.' : 'Nothing is listed yet. Publish a package from Violet Crate and list it: it shows up here.') : counted(total, 'mod')}
    </p>
    ${shelf(cards)}
    <p>
      ${page > 0 ? html`<a class="button" href="${to(page - 1)}">Before</a> ` : ''}${(page + 1) * 24 < total ? html`<a class="button" href="${to(page + 1)}">More</a>` : ''}
    </p>`;
}

export interface ModPage {
  mod: Mod;
  version: Version;
  versions: Version[];
  organisation: { name: string; title: string };
  rating: { mean: number | null; count: number };
  downloads: number;
  comments: { id: number; text: string; at: string; who: string }[];
  log: { who: string; what: string; at: string }[];
  signedIn: boolean;
  inside: boolean;
  manages: boolean;
}

export function modPage({ mod, version, versions, organisation, rating, downloads, comments, log, signedIn, inside, manages }: ModPage): Html {
  const { manifest, shareCode } = version;
  const { about = {}, requires = {}, pictures = [], credits, authors, licence, gameVersion } = manifest;
  const name = mod.name;
  return html`${mod.visibility !== 'listed' ? html`<p class="told">${mod.visibility === 'private' ? 'Private: only its organisation and its testers see this.' : 'Not listed: whoever has the share code can install it.'}</p>` : ''}
    ${mod.deletedAt ? html`<p class="wrong">Deleted on ${day(mod.deletedAt)}. ${manages ? html`<a href="/mods/${name}/manage">Bring it back</a>` : ''}</p>` : ''}
    ${version.withdrawnAt ? html`<p class="wrong">This version was withdrawn: ${version.withdrawnFor}</p>` : ''}
    <h1>${manifest.title}</h1>
    <p class="faint">
      by <a href="/organisations/${organisation.name}">${organisation.title}</a> ·
      ${stars(rating.mean)}${rating.count > 0 ? ` from ${counted(rating.count, 'player')}` : ''} · ${counted(downloads, 'download')}
    </p>
    <div class="lead">
      <div>
        <picture>
          ${manifest.preview ? html`<source srcset="/api/releases/${shareCode}/preview" type="image/webp" media="(prefers-reduced-motion: no-preference)" />` : ''}
          <img src="/api/releases/${shareCode}/thumbnail" alt="Picture of ${manifest.title}" />
        </picture>
        ${pictures.length > 0 ? html`<div class="gallery">${pictures.map((_, n) => html`<a href="/api/releases/${shareCode}/pictures/${n}"><img src="/api/releases/${shareCode}/pictures/${n}" alt="Picture ${n + 1}" loading="lazy" /></a>`)}</div>` : ''}
      </div>
      <div>
        <p>Share code<br /><span class="code">${shareCode}</span> <button data-copy="${shareCode}" hidden>Copy</button></p>
        <p class="faint">In Violet Crate: <em>Mods</em>, then <em>Install by share code</em>. Or <code>crate install ${shareCode}</code>.</p>
        <dl>
          <dt>Version</dt>
          <dd>${version.version}, ${day(version.publishedAt)}</dd>
          <dt>Game</dt>
          <dd>${manifest.profile}${gameVersion ? ` ${gameVersion}` : ''}</dd>
          <dt>Size</dt>
          <dd>${size(version.bytes)}</dd>
          ${
            Object.keys(requires).length > 0
              ? html`<dt>Needs</dt>
                  <dd>${Object.entries(requires).map(([crate, range]) => html`<a href="/mods/${crate}">${crate}</a> ${range} `)}</dd>`
              : ''
          }
          ${
            about.players
              ? html`<dt>Players</dt>
                  <dd>${about.players[0] === about.players[1] ? about.players[0] : `${about.players[0]} to ${about.players[1]}`}</dd>`
              : ''
          }
          ${
            about.minutes
              ? html`<dt>Takes</dt>
                  <dd>about ${counted(about.minutes, 'minute')}</dd>`
              : ''
          }
          ${
            about.difficulty
              ? html`<dt>Difficulty</dt>
                  <dd>${about.difficulty}</dd>`
              : ''
          }
          ${
            about.languages?.length
              ? html`<dt>Languages</dt>
                  <dd>${about.languages.join(', ')}</dd>`
              : ''
          }
          <dt>Licence</dt>
          <dd>${licence ?? 'none stated: all rights stay with the authors'}</dd>
          <dt>Signed</dt>
          <dd>${version.key ? html`<code>${fingerprint(version.key)}</code>` : 'no'}</dd>
        </dl>
        ${(about.tags ?? []).map((tag) => html`<a class="tag" href="/?tag=${encodeURIComponent(tag)}">${tag}</a>`)}
        ${manages ? html`<p><a class="button" href="/mods/${name}/manage">Manage it</a></p>` : ''}
      </div>
    </div>
    <h2>About it</h2>
    <div class="describe">
      ${manifest.description.trim() === '' ? html`<p class="faint">No description.</p>` : trusted(htmlOfMarkdown(manifest.description))}
    </div>
    <h2>Versions</h2>
    <div class="wide">
      <table>
        <thead>
          <tr>
            <th>Version</th>
            <th>When</th>
            <th>What changed</th>
            <th>Share code</th>
          </tr>
        </thead>
        <tbody>
          ${versions.map(
            (one) =>
              html`<tr>
                <td>
                  ${one.version}${one.id === mod.current ? html` <strong>given out</strong>` : ''}${one.withdrawnAt ? html` <span class="wrong">withdrawn</span>` : ''}
                </td>
                <td>${day(one.publishedAt)}</td>
                <td>
                  ${one.withdrawnAt ? one.withdrawnFor : one.notes.trim() === '' ? html`<span class="faint">Nothing said.</span>` : trusted(htmlOfMarkdown(one.notes))}
                </td>
                <td><code>${one.shareCode}</code></td>
              </tr>`,
          )}
        </tbody>
      </table>
    </div>
    <h2>Credits</h2>
    <p>${authors.length > 0 ? html`Made by ${authors.join(', ')}.` : html`<span class="faint">No author is named.</span>`}</p>
    ${
      credits.length > 0
        ? html`<ul>
            ${credits.map(({ author, work, licence: under }) => html`<li>${[author, work, under].filter(Boolean).join(', ')}</li>`)}
          </ul>`
        : ''
    }
    <h2>Comments</h2>
    ${
      signedIn
        ? html`<form method="post" action="/mods/${name}/comments">
            <label>What do you think?<textarea name="text" maxlength="4000" required></textarea></label><button>Comment</button>
          </form>`
        : html`<p><a href="/sign-in">Sign in</a> to comment and rate.</p>`
    }
    ${comments.map(
      ({ id, text, at, who }) =>
        html`<div class="comment">
          <small>${who}, ${day(at)}</small>
          <p>${text}</p>
          ${signedIn ? html`<form method="post" action="/mods/${name}/reports"><input type="hidden" name="comment" value="${id}" /><input type="hidden" name="reason" value="This comment" /><button class="plain">Report</button></form>` : ''}
        </div>`,
    )}
    ${
      signedIn && !inside
        ? html`<h2>Your rating</h2>
            <form method="post" action="/mods/${name}/ratings" class="row">
              <label
                >Stars<select name="stars">
                  ${[5, 4, 3, 2, 1].map((n) => html`<option>${n}</option>`)}
                </select></label
              ><button>Rate</button>
            </form>`
        : ''
    }
    ${
      signedIn
        ? html`<h2>Tested it?</h2>
            <form method="post" action="/mods/${name}/tests">
              <input type="hidden" name="version" value="${version.version}" />
              <label class="row"><input type="radio" name="works" value="yes" checked />It works</label>
              <label class="row"><input type="radio" name="works" value="no" />It does not</label>
              <label>Note<input name="note" maxlength="2000" /></label><button>Say so</button>
            </form>
            <details>
              <summary>Report this mod</summary>
              <form method="post" action="/mods/${name}/reports">
                <label>What is wrong?<textarea name="reason" required maxlength="2000"></textarea></label><button>Report</button>
              </form>
            </details>`
        : ''
    }
    <h2>What was done</h2>
    <ul class="plain">
      ${log.map(({ who, what, at }) => html`<li><small>${day(at)}</small> ${who} ${what}</li>`)}
    </ul>`;
}
