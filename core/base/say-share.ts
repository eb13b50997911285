/** A share of 1 in per cent, to a tenth. */
export const sayShare = (share: number): string => `${Math.round(share * 1000) / 10} %`
