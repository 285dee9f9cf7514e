import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { inject } from '@angular/core';
import { DomSanitizer, type SafeHtml } from '@angular/platform-browser';
import {
  AppWindow,
  ArrowUp,
  Columns2,
  Calendar,
  ChevronDown,
  CircleQuestionMark,
  Eye,
  Frame,
  GripVertical,
  History,
  Pause,
  Play,
  Plus,
  Redo2,
  RotateCcw,
  RotateCw,
  Scan,
  Search,
  Square,
  Star,
  Sun,
  Trash2,
  Undo2,
  Upload,
  Download,
  X,
  type IconNode,
} from 'lucide';

const ICONS: Readonly<Record<string, IconNode>> = {
  history: History, undo: Undo2, redo: Redo2, pause: Pause, play: Play, stop: Square, back: RotateCcw, forward: RotateCw, whole: Scan, search: Search, remove: Trash2,
  upload: Upload, download: Download, eye: Eye, plus: Plus, close: X, open: ChevronDown, up: ArrowUp, star: Star, compare: Columns2, grip: GripVertical, region: Frame, calendar: Calendar, sun: Sun, help: CircleQuestionMark, window: AppWindow,
}; // prettier-ignore
export type IconName = keyof typeof ICONS;

/** A 16 px line icon of the one set; always beside a word or a tooltip. */
@Component({
  selector: 'dp-icon',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<svg
    width="16"
    height="16"
    viewBox="0 0 24 24"
    fill="none"
    stroke="currentColor"
    stroke-width="2"
    stroke-linecap="round"
    stroke-linejoin="round"
    aria-hidden="true"
    [innerHTML]="shape()"
  ></svg>`,
  styles: `
    svg {
      vertical-align: -3px;
    }
  `,
})
export class Icon {
  readonly name = input.required<string>();
  private readonly sanitizer = inject(DomSanitizer);
  /** The set's own shapes, written out; nothing foreign is in them. */
  protected readonly shape = computed((): SafeHtml => {
    const nodes = ICONS[this.name()] ?? [];
    return this.sanitizer.bypassSecurityTrustHtml(
      nodes
        .map(
          ([tag, attributes]) =>
            `<${tag} ${Object.entries(attributes)
              .map(([k, v]) => `${k}="${String(v)}"`)
              .join(' ')}/>`,
        )
        .join(''),
    );
  });
}
