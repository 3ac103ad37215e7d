import { expect, test } from 'vitest';
import { standingPage } from './trouble';

test('it says what is wrong and what to do, whatever the database is called', () => {
  const page = standingPage({ what: 'The database /tmp/<b>"x" & y is full.', remedy: 'Make room.' }, 'abc"');
  expect(page).toContain('<p>The database /tmp/&lt;b&gt;&quot;x&quot; &amp; y is full.</p>');
  expect(page).toContain('<p>Make room.</p>');
  expect(page).toContain('<style nonce="abc&quot;">');
});
