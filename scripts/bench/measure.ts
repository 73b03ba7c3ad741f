import { readFileSync } from 'node:fs';

export interface Measure {
  name: string;
  value: number;
  unit: string;
  /** What the value is compared with, measured in the same run. */
  reference: string;
  ratio: number | null;
  aim: string;
}

/** Resident memory of a process in MiB. */
export function memoryOf(pid: number): number {
  const status = readFileSync(`/proc/${pid}/status`, 'utf8');
  return Number(/VmRSS:\s+(\d+)/.exec(status)?.[1] ?? 0) / 1024;
}
