/** A model that cannot be delivered. */
export interface ModelFailure {
  /** Its position among the models. */
  model: number;
  /** What is wrong, as a sentence. */
  reason: string;
}

/** Models stand in the way of a delivery; without them it can be made. */
export class UndeliverableModels extends Error {
  override readonly name = 'UndeliverableModels';
  constructor(readonly failures: readonly ModelFailure[]) {
    super(failures.map((failure) => failure.reason).join('; '));
  }
}
