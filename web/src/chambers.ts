// How chambers are told apart: a letter and a tint each.
const TINTS = ['#C8962F', '#3E6E9E', '#7E9C45', '#A6557F', '#3F8F82', '#C06A3B', '#7668B0', '#8C7A4A'];

export const chamberTint = (n: number) => TINTS[n % TINTS.length]!;

/** A, B … Z, A2, B2 … */
export const chamberName = (n: number) =>
    String.fromCharCode(65 + (n % 26)) + (n < 26 ? '' : String(Math.floor(n / 26) + 1));
