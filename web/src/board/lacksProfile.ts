import { useBench } from '../stores/bench';

/** What a body of a profile lacks: the profile. */
export const lacksProfile = (a: { profile?: number | null }) =>
    a.profile || useBench().part?.figures.drawn ? null : 'Choose the profile it is made of.';
