/** The properties of a component as JSON, for `ofManyRules`; the type keeps the original one. */
export type TextOf<P> = string & { readonly of: P };

export const textOf = <P extends object>(props: P): TextOf<P> => JSON.stringify(props) as TextOf<P>;
