import type { InputError } from '@wembrel/core/errors';
import type { FaceEditReport } from '@wembrel/core/faces/apply-faces';
import type { Progress } from '@wembrel/runner/progress';

/** Bytes in the unit that reads best. */
export function size(bytes: number): string {
  if (bytes < 1024) return `${bytes} B`;
  if (bytes < 1024 ** 2) return `${(bytes / 1024).toFixed(1)} KiB`;
  if (bytes < 1024 ** 3) return `${(bytes / 1024 ** 2).toFixed(1)} MiB`;
  return `${(bytes / 1024 ** 3).toFixed(2)} GiB`;
}

/** Numbers with thin groups of three. */
export function count(n: number): string {
  return String(n).replace(/\B(?=(\d{3})+$)/g, ' ');
}

/** A table with the first column to the left and the others to the right. */
export function table(rows: string[][]): string {
  const widths = rows[0].map((_, c) => Math.max(...rows.map((row) => [...(row[c] ?? '')].length)));
  return rows
    .map((row) =>
      row
        .map((v, c) => (c === 0 ? v.padEnd(widths[c]) : v.padStart(widths[c])))
        .join('  ')
        .trimEnd(),
    )
    .join('\n');
}

/** Slots that are not merged, a line for each reason. */
export function apartLines(kept: readonly { slot: string; model: string; reason: string }[]): string[] {
  const byReason = new Map<string, string[]>();
  for (const { slot, model, reason } of kept) {
    const title = `${slot} (${model})`;
    const list = byReason.get(reason);
    if (list) list.push(title);
    else byReason.set(reason, [title]);
  }
  return [...byReason].map(([reason, titles]) => {
    const few =
      titles.length <= 3 ? titles.join(', ') : `${titles.slice(0, 2).join(', ')} and ${titles.length - 2} more`;
    return `kept apart, ${count(titles.length)} ${titles.length === 1 ? 'slot' : 'slots'}: ${few}: ${reason}`;
  });
}

/** What was done to faces, a line an edit; faults below it. */
export function editLines(edited: readonly { path: string; edits: FaceEditReport[] }[]): string[] {
  return edited.flatMap(({ path, edits }) =>
    edits.flatMap((edit) => [
      `${path}: ${edit.edit}: ${count(edit.faces)} faces: ${edit.said}`,
      ...edit.faults.map((fault) => `${path}: ${edit.edit}: fault: ${fault}`),
    ]),
  );
}

/** A progress line on a terminal; silent elsewhere. */
export function progressLine(quiet: boolean): { on: (progress: Progress) => void; end: () => void } {
  const tty = process.stderr.isTTY && !quiet;
  let shown = 0;
  return {
    on(progress) {
      if (!tty || Date.now() - shown < 80) return;
      shown = Date.now();
      const bar = '#'.repeat(Math.round(progress.share * 24)).padEnd(24, '.');
      process.stderr.write(
        `\r\x1b[K[${bar}] ${String(Math.round(progress.share * 100)).padStart(3)} %  ${progress.doing}`,
      );
    },
    end() {
      if (tty) process.stderr.write('\r\x1b[K');
    },
  };
}

/** What failed as a whole, told as every verb tells it: a line on stderr, and with `--json` a document of errors alone. @returns the exit code */
export function failedWhole(
  error: InputError,
  json: boolean,
  before: readonly { path: string; message: string }[],
): number {
  const errors = [...before, { path: error.path, message: error.reason }];
  for (const error of errors) process.stderr.write(`${error.path}: ${error.message}\n`);
  if (json) process.stdout.write(`${JSON.stringify({ errors }, null, 2)}\n`);
  return 1;
}
