// Whether a field stands in the worksheet of a step, whose figure must be in it before it is applied.
import type { InjectionKey } from 'vue';

export const OF_THE_STEP: InjectionKey<boolean> = Symbol('of the step');
