/** Languages that are written from right to left. */
const RIGHT_TO_LEFT = /^(ar|arc|ckb|dv|fa|he|ks|ku-arab|ps|sd|ug|ur|yi)(-|$)/i

/** Whether a language is written from right to left. */
export const isRightToLeft = (lang: string): boolean => RIGHT_TO_LEFT.test(lang)
