/** Minutes and hours since the learner came: 0:07, 1:32. */
export const sinceCame = (s: number) =>
  `${Math.floor(s / 3600)}:${String(Math.floor(s / 60) % 60).padStart(2, "0")}`;
