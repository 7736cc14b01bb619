import { type Icon, IconAdjustmentsHorizontal, IconArrowBigRight, IconCircle, IconCrosshair, IconToolsKitchen2, IconFlag2, IconHexagon, IconLayoutGrid, IconLetterT, IconNumber123, IconLineDashed, IconNeedleThread, IconPhoto, IconProgress, IconRectangle, IconRectangleFilled, IconRubberStamp, IconSquare, IconStack2, IconStar, IconVideo, IconVector, IconWallpaper } from '@tabler/icons-vue'

import type { LayerLine } from '../api/client'
import { thread } from '../common/theme'

/** Pictures of the kinds of layers and of what lies in the tray; one that has none is shown as a thing among others. */
const icons: Record<string, Icon> = {
  view: IconNeedleThread, pocket: IconNeedleThread, mark: IconRubberStamp, picture: IconPhoto, shape: IconRectangle, ground: IconRectangleFilled, group: IconStack2, use: IconWallpaper, grade: IconAdjustmentsHorizontal, camera: IconVideo, carrier: IconCrosshair, track: IconProgress,
  split: IconLayoutGrid, recipe: IconToolsKitchen2, rectangle: IconRectangle, ellipse: IconCircle, triangle: IconFlag2, polygon: IconHexagon, star: IconStar, arrow: IconArrowBigRight, rule: IconLineDashed, border: IconSquare, path: IconVector, words: IconLetterT, counter: IconNumber123,
}
export const iconOf = (kind: string) => icons[kind] ?? (kind.startsWith('motif-') ? IconWallpaper : IconSquare)
export const iconOfLayer = (y: LayerLine) => iconOf(y.form || y.kind)
/** The thread of a kind; what has none is quiet. */
export const tint = (name: string) => thread[name] ?? '#66726B'
