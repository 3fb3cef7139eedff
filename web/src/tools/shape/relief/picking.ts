import { lacksProfile } from '../../../board/lacksProfile';

export const missing = lacksProfile;
