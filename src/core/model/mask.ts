/** How a secret is shown in place of its value. */
export const maskOf = (name: string): string => `‹${name}›`;
/** Whether a text shows a mask. */
export const isMasked = (text: string): boolean => /‹[\w.-]+›/.test(text);
