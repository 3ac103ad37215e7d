import AxeBuilder from '@axe-core/playwright';
import { expect, type Page } from '@playwright/test';

/** Checks that axe finds no accessibility violation on the page. */
export async function noViolations(page: Page): Promise<void> {
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.map(({ id, nodes }) => [id, nodes.map(({ html }) => html)])).toEqual([]);
}
