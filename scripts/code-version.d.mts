/** Sixteen hexadecimal digits that name the code as it is. */
export function codeVersion(): string
