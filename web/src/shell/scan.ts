/** A scanner types faster than any hand: so many milliseconds from key to key on average, and never a longer pause. */
export const scanPace = 40;
export const scanPause = 120;
