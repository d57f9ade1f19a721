/** Descriptions and change notes as HTML: CommonMark (spec 0.31) without HTML of one's own, with safe links only. */

import MarkdownIt from 'markdown-it';

const reader = new MarkdownIt('commonmark', { html: false, breaks: false, linkify: false });
// Pictures of strangers would tell their servers who reads a page.
reader.disable('image');
const link = reader.renderer.rules.link_open ?? ((tokens, index, options, _, self) => self.renderToken(tokens, index, options));
reader.renderer.rules.link_open = (tokens, index, options, env, self) => {
  tokens[index].attrSet('rel', 'nofollow noopener noreferrer');
  return link(tokens, index, options, env, self);
};
const known = reader.validateLink.bind(reader);
reader.validateLink = (url) => known(url) && /^(https?:|mailto:|(?!\/\/)[^:]*$)/i.test(url.trim());

/** Characters that are read; a description may have 8,000. */
const LONGEST = 20_000;

export const htmlOfMarkdown = (text: string): string => reader.render(text.slice(0, LONGEST));
