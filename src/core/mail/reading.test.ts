import { describe, expect, test } from 'vitest';
import { readMessage } from './message';
import { readingOf } from './reading';

const octets = (text: string) => new TextEncoder().encode(text);
const reading = (text: string) => readingOf(readMessage(octets(text)));

describe('what a person reads of a message', () => {
  test('its text, or the words of its HTML, and nothing that would run', () => {
    expect(reading('Content-Type: text/plain\n\nwords\n').texts.map(({ text }) => text.trim())).toEqual(['words']);
    const html = reading('Content-Type: text/html\n\n<p>a<script>evil()</script> b</p>');
    expect(html.texts).toEqual([{ part: 0, type: 'text/html', name: null, text: 'a b', again: false }]);
  });

  test('of two forms of a text the first that has words is read, the other is told as another form', () => {
    const two = (plain: string) =>
      reading(
        `Content-Type: multipart/alternative; boundary=b\n\n--b\n\n${plain}\n--b\nContent-Type: text/html\n\n<b>weir</b>\n--b--\n`,
      ).texts.map(({ text, again }) => [text, again]);
    expect(two('weir')).toEqual([
      ['weir', false],
      ['weir', true],
    ]);
    expect(two('')).toEqual([
      ['', false],
      ['weir', false],
    ]);
  });

  test('attachments by name, type and size, their transfer encoding undone', () => {
    const found = reading(
      [
        'Content-Type: multipart/mixed; boundary=b\n',
        '--b\n\nsee the plan',
        "--b\nContent-Type: application/pdf\nContent-Disposition: attachment; filename*=utf-8''Sluice%20gr%C3%BCn.pdf\nContent-Transfer-Encoding: base64\n\nd2Vpcg==",
        '--b\nContent-Type: text/plain; name="=?utf-8?q?N=C3=B6tes.txt?="\n\nnotes',
        '--b\nContent-Type: message/rfc822\n\nSubject: inner\n\ninner words',
        '--b--\n',
      ].join('\n'),
    );
    expect(found.attachments).toEqual([
      { part: 2, name: 'Sluice grün.pdf', type: 'application/pdf', octets: 4 },
      { part: 3, name: 'Nötes.txt', type: 'text/plain', octets: 5 },
      { part: 4, name: null, type: 'message/rfc822', octets: 27 },
    ]);
    expect(found.texts.map(({ text }) => text)).toEqual(['see the plan', 'notes', 'inner words']);
  });

  test('a line that begins with a boundary is one, unless it is that of a part within (RFC 2046 section 5.1.1)', () => {
    expect(
      reading('Content-Type: multipart/mixed; boundary=b\n\n--b more\n\none\n--b\n\ntwo\n--b--x\n').texts.map(
        ({ text }) => text,
      ),
    ).toEqual(['one', 'two']);
    const within =
      'Content-Type: multipart/mixed; boundary=b\n\n--b\nContent-Type: multipart/alternative; boundary="b1"\n\n--b1\n\none\n--b1--\n--b\n\ntwo\n--b--\n';
    expect(reading(within).texts.map(({ text }) => text)).toEqual(['one', 'two']);
  });

  test('parts that lie too deep are told', () => {
    const deep = Array.from(
      { length: 1000 },
      (_, n) => `Content-Type: multipart/mixed; boundary=b${n}x\n\n--b${n}x\n`,
    ).join('');
    expect(reading(deep).deep).toBe(true);
  });
});
