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

/** Resident memory of a process in MiB; 0 once it is gone. */
export function memoryOf(pid: number): number {
  let status: string;
  try {
    status = readFileSync(`/proc/${pid}/status`, 'utf8');
  } catch {
    return 0;
  }
  return Number(/VmRSS:\s+(\d+)/.exec(status)?.[1] ?? 0) / 1024;
}
