import { methodIds } from '../../core/job';
import { methods } from '../../core/methods';
import { markTools, methodKeys, slotKeys } from './tool-icons';

/** Keys of the bench: what several programs and systems share, and our own. Help shows the same list. */
export const shortcutList: readonly { keys: string; does: string }[] = [
  ...markTools.map((t) => ({ keys: t.key, does: t.says })),
  ...methodIds.map((id) => ({
    keys: methodKeys[id],
    does: `${methods[id].title}: mend what is marked, or with the next gesture`,
  })),
  {
    keys: 'Enter',
    does: 'Close an outline of corners; mend what is marked by the method at hand (fill, if none is); keep a changed area',
  },
  { keys: 'Escape', does: 'Take back the gesture; then clear the mark; then put the method away' },
  {
    keys: 'Shift',
    does: 'While marking: mark more before it is mended. While painting: a straight line from the last stroke',
  },
  {
    keys: 'Alt',
    does: 'While marking: take away; with Shift too: keep what lies in both. With clone and heal: set the source; with colour: pick it',
  },
  { keys: 'P', does: 'Keep what is marked with the job, to be marked again' },
  { keys: 'Shift + P', does: 'Invert what is marked' },
  { keys: '[ and ]', does: 'Brush smaller, larger; with Shift: softer, harder' },
  { keys: 'Alt + [ and ]', does: 'Less or more margin round what is marked, by 1 px; with Shift by 10' },
  { keys: 'Ctrl + Z, Ctrl + Shift + Z', does: 'Undo, redo (Cmd on a Mac)' },
  { keys: '+ and −', does: 'Zoom in, zoom out; the wheel zooms at the pointer' },
  { keys: 'Ctrl + 0, Ctrl + 1', does: 'Fit, 1:1' },
  { keys: 'Space', does: 'Hold and drag to pan; the middle button pans too' },
  { keys: '.', does: 'Hold: before' },
  { keys: ', and /', does: 'Wipe, pair; again to end' },
  { keys: ';', does: 'Hide or show every mark on the photo' },
  { keys: 'Arrow keys', does: 'Nudge the chosen mend by 1 px, with Shift by 10; with Alt its source' },
  { keys: 'N', does: 'Another try, or the next best source' },
  { keys: 'Shift + N', does: 'Tryouts: several candidates for the chosen mend, side by side' },
  { keys: 'Shift + 2', does: 'Repeat the last fill’s settings: on what is marked, or on the next marks' },
  { keys: 'B', does: 'The best source for the chosen mend' },
  { keys: 'M', does: 'Source map: how well each place would serve; again to end' },
  { keys: slotKeys.join(', '), does: 'Take from the first, second, third remembered source' },
  {
    keys: 'J and K, U and I',
    does: 'Turn the source, lay it on smaller or larger; with Shift in fine steps',
  },
  { keys: 'O', does: 'Mirror the source' },
  { keys: 'H', does: 'Hide or show the chosen mend' },
  { keys: 'Delete', does: 'Delete the chosen mend' },
];
