import { expect, test } from 'vitest';
import { isReadable } from './addresses';

test.each([
  ['/audits/demo/mail?words=oak+and%20lime&rule=r1', true],
  ['/audits/demo/mail?words=%E7%9F%B3', true],
  ['/audits/%ff/mail', false],
  ['/audits/%F0%9F/mail', false],
  ['/audits/demo/mail?words=%ed%a0%80', false],
  ['/audits/demo/mail?folder=a%01b', true],
  ['/audits/demo/mail?folder=a%00b', false],
  ['/audits/%00', false],
  ['/audits/a%0d%0aX:1', false],
  ['/audits/%', false],
  ['/audits/100%25', true],
])('%s can be read: %s', (url, readable) => {
  expect(isReadable(url)).toBe(readable);
});
