/** A number with what it counts: "1 machine", "2 machines". */
export const counted = (number: number, one: string, several = `${one}s`) =>
  `${number} ${number === 1 ? one : several}`;
