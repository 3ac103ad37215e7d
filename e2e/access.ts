import AxeBuilder from '@axe-core/playwright';
import { expect, type Page } from '@playwright/test';

/** That the page as it stands has no fault of access that can be found by machine. */
export async function noViolations(page: Page): Promise<void> {
  const { violations } = await new AxeBuilder({ page }).analyze();
  expect(violations.map(({ id, nodes }) => [id, nodes.map(({ html }) => html)])).toEqual([]);
}
