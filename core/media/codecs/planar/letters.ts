/** The letters by which a track names its kind of planes; Matroska has them behind "V_". */
export const lettersOf = (code: string): string => code.replace(/^V_/, '')
