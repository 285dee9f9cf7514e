import { along, cosinePower, upAndDown, webOfForm, writeEulumdat, writeIes, type ClosedForm } from '../../core/lamp/closed-forms';
import type { Photometry } from '../../core/model/schema';

/** The files that the demonstration's lamps have: made up, from closed forms, in both formats. */

const form = (name: string, share: ClosedForm['share'], fluxLm: number, inputW: number, openingM: ClosedForm['openingM'], isRound = true) =>
  webOfForm({ name, share, isRound, fluxLm, inputW, openingM });

/** Of opal glass: all round, less and less towards the cord that it hangs by. */
const globe = (gamma: number) => (gamma > 150 ? 1 - ((gamma - 150) / 30) * 0.8 : 1);
/** A lit ring on a post, dark upwards. */
const post = (gamma: number) => (gamma < 100 ? Math.sin((gamma * Math.PI) / 180) ** 0.5 : 0.1);
const linear = (gamma: number, c: number) => (gamma > 90 ? upAndDown(0.15)(gamma) : along(0.8, 1.6)(gamma, c));

export const PHOTOMETRY: Photometry[] = [
  { id: 'globe', name: 'Opal globe 260.ldt', text: writeEulumdat(form('Opal globe 260', globe, 1900, 18, [0.26, 0.26, 0.26])) },
  { id: 'narrow', name: 'Counter spot.ies', text: writeIes(form('Counter spot', cosinePower(8), 850, 9, [0.08, 0.08, 0])) },
  { id: 'soffit', name: 'Soffit light.ies', text: writeIes(form('Soffit light', cosinePower(3), 700, 8, [0.08, 0.08, 0])) },
  { id: 'jetty', name: 'Jetty post.ldt', text: writeEulumdat(form('Jetty post', post, 500, 6, [0.1, 0.1, 0.12])) },
  { id: 'linear', name: 'Workshop linear.ies', text: writeIes(form('Workshop linear', linear, 3500, 30, [1.5, 0.1, 0.06], false)) },
];
