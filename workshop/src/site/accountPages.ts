/** Pages of those who have an account: signing in, their account, organisations, managing a mod, moderation. */

import type { Account } from '../accounts/accounts.service.ts';
import type { Condition } from '../accounts/eligibility.ts';
import type { Mod, ModCard, Version } from '../mods/mods.service.ts';
import { ROLES, SCOPES, VISIBILITIES, type tokens } from '../schema.ts';
import { html, trusted, type Html } from './html.ts';
import { day, shelf } from './pages.ts';

const options = (values: readonly string[], chosen: string): Html[] =>
  values.map((value) => html`<option${value === chosen ? html` selected` : ''}>${value}</option>`);

export const backTo = (path: string): Html => html`<p><a class="button" href="${path}">Go back</a></p>`;

export const signInPage = (): Html =>
  html`<h1>Sign in</h1>
    <form method="post" action="/sign-in">
      <label>Name<input name="name" autocomplete="username" required /></label>
      <label>Password<input name="password" type="password" autocomplete="current-password" required /></label>
      <button>Sign in</button>
    </form>
    <p>No account yet? <a href="/sign-up">Sign up.</a></p>`;

export const signUpPage = (): Html =>
  html`<h1>Sign up</h1>
    <form method="post" action="/sign-up">
      <label>Name<input name="name" autocomplete="username" required minlength="3" maxlength="30" /></label>
      <label>Mail address<input name="mail" type="email" autocomplete="email" required /></label>
      <label
        >Password <small>at least 10 characters; a sentence is a good one</small
        ><input name="password" type="password" autocomplete="new-password" required minlength="10"
      /></label>
      <button>Sign up</button>
    </form>
    <p class="faint">Mail of this stand-in goes to its own <a href="/mailbox">mailbox</a>; nothing leaves this machine.</p>`;

export const mailboxPage = (mails: readonly { to: string; subject: string; body: string; link: string; at: string }[]): Html =>
  html`<h1>Mailbox of this stand-in</h1>
    <p class="faint">What a real workshop would send by mail lies here.</p>
    ${mails.length === 0 ? html`<p>It is empty.</p>` : ''}${mails.map(
      (mail) =>
        html`<div class="comment">
          <small>To ${mail.to}, ${day(mail.at)}</small>
          <p><strong>${mail.subject}</strong>. ${mail.body} <a href="${mail.link}">Follow the link</a></p>
        </div>`,
    )}`;

export const confirmPage = (code: string, what: string): Html =>
  html`<h1>${what}</h1>
    <form method="post" action=""><input type="hidden" name="code" value="${code}" /><button>Yes</button></form>`;

export const termsPage = (accepted: string | null, signedIn: boolean): Html =>
  html`<h1>Terms</h1>
    <ul>
      <li>You publish what you may: your own work, or that of others under licences that allow it, with their names.</li>
      <li>No mod harms the machines or the privacy of players.</li>
      <li>Moderators may take a mod off the list, and say why in its log.</li>
    </ul>
    ${signedIn ? (accepted ? html`<p class="met">You accepted them on ${day(accepted)}.</p>` : html`<form method="post" action="/terms"><button>I accept them</button></form>`) : html`<p class="faint">Sign in to accept them.</p>`}`;

export interface AccountPage {
  account: Account;
  conditions: Condition[];
  organisations: { name: string; title: string; role: string }[];
  mods: { mod: Mod; card: ModCard | null }[];
  tokens: (typeof tokens.$inferSelect)[];
  fresh?: string;
}

export const accountPage = ({ account, conditions, organisations, mods, tokens: all, fresh }: AccountPage): Html =>
  html`<h1>${account.name}</h1>
    <h2>What you may do</h2>
    <ul class="plain">
      ${conditions.map(({ met, text, id }) => html`<li class="${met ? 'met' : 'unmet'}">${text}${!met && id === 'terms' ? html` <a href="/terms">Read them</a>` : ''}${!met && id === 'mail' ? html` <a href="/mailbox">See the mailbox</a>` : ''}</li>`)}
    </ul>
    <h2>Your mods</h2>
    ${
      mods.length === 0
        ? html`<p class="faint">None yet. Publish a package from Violet Crate with a token from below.</p>`
        : html`<div class="wide">
            <table>
              <thead>
                <tr>
                  <th>Mod</th>
                  <th>Version</th>
                  <th>Seen by</th>
                  <th></th>
                </tr>
              </thead>
              <tbody>
                ${mods.map(
                  ({ mod, card }) =>
                    html`<tr>
                      <td><a href="/mods/${mod.name}">${card?.title ?? mod.name}</a></td>
                      <td>${card?.version ?? 'all withdrawn'}</td>
                      <td>${mod.deletedAt ? 'deleted' : mod.visibility}</td>
                      <td><a href="/mods/${mod.name}/manage">Manage</a></td>
                    </tr>`,
                )}
              </tbody>
            </table>
          </div>`
    }
    <h2>Organisations</h2>
    <ul>
      ${organisations.map(({ name, title, role }) => html`<li><a href="/organisations/${name}">${title}</a>, ${role}</li>`)}
    </ul>
    <form method="post" action="/organisations" class="row">
      <label>Name<input name="name" required /></label><label>Title<input name="title" /></label><button>Make one</button>
    </form>
    <h2>Tokens for programs</h2>
    ${fresh ? html`<p class="told">Your new token, shown this once: <code>${fresh}</code> <button data-copy="${fresh}" hidden>Copy</button></p>` : ''}
    ${
      all.length > 0
        ? html`<div class="wide">
            <table>
              <thead>
                <tr>
                  <th>Name</th>
                  <th>May</th>
                  <th>Last used</th>
                  <th></th>
                </tr>
              </thead>
              <tbody>
                ${all.map(
                  (token) =>
                    html`<tr>
                      <td>${token.name}</td>
                      <td>${token.scopes.join(', ')}</td>
                      <td>${token.usedAt ? day(token.usedAt) : 'never'}</td>
                      <td>
                        ${token.revokedAt ? 'revoked' : html`<form method="post" action="/tokens/${token.id}/revoke"><button class="bad">Revoke</button></form>`}
                      </td>
                    </tr>`,
                )}
              </tbody>
            </table>
          </div>`
        : ''
    }
    <form method="post" action="/tokens">
      <label>Name<input name="name" required maxlength="60" value="my workbench" /></label>
      ${SCOPES.map((scope) => html`<label class="row"><input type="checkbox" name="scopes" value="${scope}" checked />${scope}</label> `)}<button>
        Make a token
      </button>
    </form>`;

export const organisationPage = (
  { name, title }: { name: string; title: string },
  people: readonly { account: number; name: string; role: string }[],
  cards: ModCard[],
  owner: boolean,
): Html =>
  html`<h1>${title}</h1>
    <h2>Mods</h2>
    ${cards.length === 0 ? html`<p class="faint">Nothing that you may see.</p>` : shelf(cards)}
    <h2>People</h2>
    <ul class="plain">
      ${people.map(
        (one) =>
          html`<li class="row">
            ${one.name},
            ${one.role}${
              owner
                ? html` <form method="post" action="/organisations/${name}/members/${one.account}" class="row">
                    <select name="role" aria-label="Role of ${one.name}">
                      ${options([...ROLES, 'nobody'], one.role)}</select
                    ><button>Change</button>
                  </form>`
                : ''
            }
          </li>`,
      )}
    </ul>
    ${
      owner
        ? html`<h2>Invite</h2>
            <form method="post" action="/organisations/${name}/invitations" class="row">
              <label>Account<input name="account" required /></label
              ><label
                >As<select name="role">
                  ${options(ROLES, 'tester')}
                </select></label
              ><button>Invite</button>
            </form>`
        : ''
    }`;

export interface ManagePage {
  mod: Mod;
  versions: Version[];
  conditions: Condition[];
  tests: { version: string; who: string; works: boolean; note: string; at: string }[];
  /** SVG of charts. */
  perDay: string;
  used: string;
  organisations: { name: string; title: string }[];
  graceDays: number;
}

export const managePage = ({ mod, versions, conditions, tests, perDay, used, organisations, graceDays }: ManagePage): Html =>
  html`<h1>Manage <a href="/mods/${mod.name}">${mod.name}</a></h1>
    <h2>Who sees it</h2>
    <form method="post" action="/mods/${mod.name}/visibility" class="row">
      <label
        >Visibility<select name="visibility">
          ${options(VISIBILITIES, mod.visibility)}
        </select></label
      ><button>Change</button>
    </form>
    <p class="faint">private: its organisation and testers. code: whoever has the share code. listed: everybody. To list it:</p>
    <ul class="plain">
      ${conditions.map(({ met, text }) => html`<li class="${met ? 'met' : 'unmet'}">${text}</li>`)}
    </ul>
    <h2>Versions</h2>
    <div class="wide">
      <table>
        <tbody>
          ${versions.map(
            (one) =>
              html`<tr>
                <td>${one.version}${one.id === mod.current ? html` <strong>given out</strong>` : ''}</td>
                <td>${day(one.publishedAt)}</td>
                <td>
                  ${
                    one.withdrawnAt
                      ? html`withdrawn: ${one.withdrawnFor}`
                      : html`${one.id === mod.current ? '' : html`<form method="post" action="/mods/${mod.name}/rollback"><input type="hidden" name="version" value="${one.version}" /><button>Give this one out</button></form>`}
                          <form method="post" action="/mods/${mod.name}/withdraw" class="row">
                            <input type="hidden" name="version" value="${one.version}" /><input
                              name="reason"
                              placeholder="Why"
                              aria-label="Why ${one.version} is withdrawn"
                              required
                            /><button class="bad">Withdraw</button>
                          </form>`
                  }
                </td>
              </tr>`,
          )}
        </tbody>
      </table>
    </div>
    <h2>Tests</h2>
    ${
      tests.length === 0
        ? html`<p class="faint">Nobody has said anything yet.</p>`
        : html`<ul>
            ${tests.map((test) => html`<li>${test.version}: ${test.who} says it ${test.works ? 'works' : 'does not work'}. ${test.note}</li>`)}
          </ul>`
    }
    <h2>Downloads by day</h2>
    <div class="wide">${trusted(perDay)}</div>
    <h2>Versions in use</h2>
    <div class="wide">${trusted(used)}</div>
    <h2>Move or delete</h2>
    <form method="post" action="/mods/${mod.name}/move" class="row">
      <label
        >To<select name="organisation">
          ${organisations.map(({ name }) => html`<option>${name}</option>`)}
        </select></label
      ><button>Move</button>
    </form>
    ${mod.deletedAt ? html`<form method="post" action="/mods/${mod.name}/restore"><button>Bring it back</button></form>` : html`<form method="post" action="/mods/${mod.name}/delete"><button class="bad">Delete</button> <small>It can be had back for ${graceDays} days.</small></form>`}`;

export const moderationPage = (
  reports: readonly { id: number; mod: string; reason: string; at: string; who: string; comment: string | null }[],
  barred: readonly Mod[],
): Html =>
  html`<h1>Reports</h1>
    ${reports.length === 0 ? html`<p class="faint">None is open.</p>` : ''}
    ${reports.map(
      (one) =>
        html`<div class="comment">
          <small>${one.who} on <a href="/mods/${one.mod}">${one.mod}</a>, ${day(one.at)}</small>
          <p>${one.reason}</p>
          ${one.comment === null ? '' : html`<blockquote>${one.comment}</blockquote>`}
          <form method="post" action="/moderation/${one.id}" class="row">
            <button name="act" value="nothing">Leave it</button
            >${one.comment === null ? html`<button name="act" value="unlist" class="bad">Take it off the list</button>` : html`<button name="act" value="hide" class="bad">Hide the comment</button>`}
          </form>
        </div>`,
    )}
    ${barred.length === 0 ? '' : html`<h2>Taken off the list</h2>`}
    ${barred.map(
      ({ name, barredAt }) =>
        html`<form method="post" action="/moderation/mods/${name}" class="row">
          <span><a href="/mods/${name}">${name}</a>, ${day(barredAt!)}</span><button>Allow it on the list again</button>
        </form>`,
    )}`;
