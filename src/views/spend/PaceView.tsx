import type { ReactNode } from 'react';
export const PaceView = ({ tabs }: { tabs: ReactNode }) => <>{tabs}</>;
