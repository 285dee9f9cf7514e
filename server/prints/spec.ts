import { clock } from '../../core/project/clock';
import { placedSources } from '../../core/project/placed-sources';
import { type PrintOrder, type PrintSpec, PRINT_QUALITIES } from '../../core/render/print';
import { momentOf, skyInputOf } from '../../core/scene/moment';
import { gradingOf } from '../../core/scene/grading-of';
import { compileScene } from '../../core/scene/compile';
import type { ProjectStore } from '../project-store';
import type { SourceStore } from '../source-store';

/** Freezes everything that an order depends on. */
export function specOf(order: PrintOrder, project: ProjectStore, sources: SourceStore): PrintSpec {
  const models = sources.models();
  const placed = placedSources(models, project.entries);
  const moment = momentOf(
    placed.map((s) => s.model),
    project.entries,
  );
  return {
    order,
    scene: compileScene(placed, project.entries),
    sky: skyInputOf(moment),
    grading: gradingOf(project.entries),
    metadata: {
      View: order.name,
      FocalLengthMm: String(order.camera.focalMm),
      EyeHeightM: order.camera.position[2].toFixed(2),
      LocalTime: `${moment.sun.date} ${clock(moment.sun.minutes)} ${moment.zone}`,
      Site: `${moment.site.name}, ${moment.site.latitudeDeg.toFixed(4)}, ${moment.site.longitudeDeg.toFixed(4)}`,
      SunAltitudeDeg: moment.position.altitudeDeg.toFixed(2),
      SunAzimuthDeg: moment.position.azimuthDeg.toFixed(2),
      ExposureEv100: order.ev100.toFixed(2),
      Revision: models.map((m) => `${m.id} ${String(m.revision)}`).join(', '),
      Samples: String(PRINT_QUALITIES[order.quality].samples),
      Seed: String(order.seed),
      Denoised: order.denoise ? 'yes' : 'no',
    },
  };
}
