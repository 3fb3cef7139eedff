import { useBench } from '../stores/bench';

const isProfile = (f?: { drawn?: boolean; wire?: boolean }) => Boolean(f?.drawn && !f.wire);

/** What a body of a profile lacks: the profile. */
export const lacksProfile = (a: { profile?: number | null }) =>
    a.profile || isProfile(useBench().part?.figures) ? null : 'Choose the profile it is made of.';
