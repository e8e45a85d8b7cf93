/** Letters of five by seven dots, for signs; row by row from the top, five bits each. */
const LETTERS: Record<string, readonly number[]> = {
  A: [14, 17, 17, 31, 17, 17, 17],
  C: [14, 17, 16, 16, 16, 17, 14],
  E: [31, 16, 16, 30, 16, 16, 31],
  H: [17, 17, 17, 31, 17, 17, 17],
  I: [14, 4, 4, 4, 4, 4, 14],
  L: [16, 16, 16, 16, 16, 16, 31],
  M: [17, 27, 21, 21, 17, 17, 17],
  O: [14, 17, 17, 17, 17, 17, 14],
  P: [30, 17, 17, 30, 16, 16, 16],
  Q: [14, 17, 17, 17, 21, 18, 13],
  R: [30, 17, 17, 30, 20, 18, 17],
  S: [15, 16, 16, 14, 1, 1, 30],
  T: [31, 4, 4, 4, 4, 4, 4],
  U: [17, 17, 17, 17, 17, 17, 14],
};

/**
 * How far a place lies inside the strokes of a text: above 0 inside, in dots.
 * @param x, y in dots from the text's upper left corner; a letter is six dots wide with its gap, seven high
 */
export function inkOf(text: string, x: number, y: number): number {
  let best = -Infinity;
  for (let j = Math.floor(y) - 1; j <= Math.floor(y) + 1; j++)
    for (let i = Math.floor(x) - 1; i <= Math.floor(x) + 1; i++) {
      const column = i - 6 * Math.floor(i / 6);
      const letter = LETTERS[text[Math.floor(i / 6)]];
      if (!letter || i < 0 || j < 0 || j > 6 || column > 4 || ((letter[j] >> (4 - column)) & 1) === 0) continue;
      // Dots are round-cornered squares that touch.
      best = Math.max(best, 0.62 - Math.max(Math.abs(x - i - 0.5), Math.abs(y - j - 0.5)));
    }
  return best;
}

/** Width of a text in dots. */
export const textWidth = (text: string): number => text.length * 6 - 1;
