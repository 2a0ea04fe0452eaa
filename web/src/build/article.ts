/** A noun with "a" or "an" before it, in small letters: "a lift", "an engineer". */
export function withArticle(noun: string): string {
  const small = noun.toLowerCase()
  // a unit, a user
  return (/^([aeio]|u(?!ni|s[ea]|ti))/.test(small) ? 'an ' : 'a ') + small
}

export const capital = (words: string): string => words.charAt(0).toUpperCase() + words.slice(1)
