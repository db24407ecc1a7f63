/** cap is words with a capital at their head. */
export const cap = (s: string) => s.charAt(0).toUpperCase() + s.slice(1);
