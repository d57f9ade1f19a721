import { describe, expect, it } from '@jest/globals';
import MarkdownIt from 'markdown-it';
import { tests } from 'commonmark-spec';
import { htmlOfMarkdown } from './markdown.ts';

describe('Markdown', () => {
  // Outside reference: the examples of the CommonMark specification 0.31.2, which its package publishes.
  it('the library reads every example of the CommonMark specification', () => {
    const reader = new MarkdownIt('commonmark');
    const plain = (html: string) => html.replace(/<blockquote>\n<\/blockquote>/g, '<blockquote></blockquote>');
    const differing = tests.filter(({ markdown, html }) => plain(reader.render(markdown.replace(/→/g, '\t'))) !== plain(html.replace(/→/g, '\t')));
    expect(tests.length).toBeGreaterThan(600);
    expect(differing.map(({ number }) => number)).toEqual([]);
  });

  // Outside reference: kinds of injection that OWASP's Cross Site Scripting Filter Evasion Cheat Sheet lists.
  it.each([
    '<script>alert(1)</script>',
    '<img src=x onerror=alert(1)>',
    '[a](javascript:alert(1))',
    '[a](JaVaScRiPt:alert(1))',
    '[a](  javascript:alert(1))',
    '[a](java\nscript:alert(1))',
    '[a](&#106;avascript:alert(1))',
    '[a](&#x6A&#x61&#x76&#x61&#x73&#x63&#x72&#x69&#x70&#x74:alert(1))',
    '[a](vbscript:msgbox(1))',
    '[a](data:text/html,<script>alert(1)</script>)',
    '[a](data:text/html;base64,PHNjcmlwdD5hbGVydCgxKTwvc2NyaXB0Pg==)',
    '[a](//evil.example/)',
    '![a](https://track.example/x.png)',
    '![a](x"onerror="alert(1))',
    '[a](https://x.example "onmouseover=alert(1)")',
    '[a](https://x.example/"onclick="alert(1))',
    '<javascript:alert(1)>',
    '<https://x.example/"onclick=alert(1)>',
    '[a]: javascript:alert(1)\n\n[a]',
    '`<script>alert(1)</script>`',
    '<svg/onload=alert(1)>',
    '<a href="javascript:alert(1)">x</a>',
    '<!--<img src="--><img src=x onerror=alert(1)//">',
    '<iframe src=javascript:alert(1)>',
    '<style>*{background:url(javascript:alert(1))}</style>',
  ])('makes nothing that acts of %s', (text) => {
    const tags = htmlOfMarkdown(text).match(/<[^>]*>/g) ?? [];
    for (const tag of tags) {
      expect(tag).toMatch(/^<\/?(p|a|em|strong|code|pre|ul|ol|li|h[1-6]|blockquote|hr|br)\b/);
      expect(tag).not.toMatch(/\son[a-z]+\s*=/i);
      expect(tag).not.toMatch(/(?:href|src)="\s*(?:javascript|vbscript|data|\/\/)/i);
    }
  });

  it('takes linear time, whatever is nested', () => {
    for (const text of ['['.repeat(50_000), '*a '.repeat(50_000), '> '.repeat(50_000), '`'.repeat(50_000), '- '.repeat(50_000)])
      expect(htmlOfMarkdown(text).length).toBeLessThan(400_000);
  });
});
