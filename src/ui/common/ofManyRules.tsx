import { Loader } from '@mantine/core';
import { type ComponentType, useEffect, useMemo, useState } from 'react';
import { ownJson } from '../../core/text/lookup';
import classes from './ofManyRules.module.css';
import type { TextOf } from './textOf';

/** Above this number of rules, the server needs more than 100 ms to render a page (measured). */
const MANY = 500;

/**
 * Wraps a component so that it receives its properties as JSON: React serialises one string much faster than thousands
 * of objects (measured). With many rules, it renders in the browser only, since rendering on the server would block
 * other requests.
 */
export function ofManyRules<P extends object>(Page: ComponentType<P>) {
  return function OfManyRules({ text, rules }: { readonly text: TextOf<P>; readonly rules: number }) {
    const [isHere, setIsHere] = useState(rules <= MANY);
    useEffect(() => setIsHere(true), []);
    const props = useMemo(() => (isHere ? ownJson<P>(text) : null), [isHere, text]);
    if (props) return <Page {...props} />;
    return (
      <p className={classes.waiting} role="status">
        Loading {rules.toLocaleString('en')} rules <Loader size="xs" type="dots" component="span" />
      </p>
    );
  };
}
