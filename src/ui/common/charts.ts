/** How axes and what stands at the pointer look in every chart. */
export const TICK = { fill: 'var(--ink-soft)', fontSize: 12 };
export const TOOLTIP = {
  background: 'var(--mantine-color-body)',
  border: '1px solid var(--hairline-strong)',
  padding: '2px 8px',
  color: 'inherit',
};
