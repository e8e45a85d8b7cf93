/** How far a construction looks to the sides. */
export interface BeamWidth {
  /** Sheets that are drawn side by side. */
  sheets: number;
  /** In how many search parameters each may go on. */
  options: number;
}

/** How the next body of a construction is chosen: of the next few in the order, the one that is surrounded most closely where it would stand. */
export interface ChoiceRule {
  /** How many are looked at. */
  look: number;
  /** Closeness by which a body that counts nothing beside the first has to be better than it. */
  bias: number;
  /** Share of the sheet's height by which one may begin further along than the one that begins first. */
  band: number;
}
