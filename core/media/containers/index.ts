/** The containers that Pour reads and writes itself. */
import type { Container } from './container'
import { avi } from './avi'
import { matroska } from './matroska'
import { mxf } from './mxf'
import { quicktime } from './quicktime'

export const containers: readonly Container[] = [quicktime, matroska, avi, mxf]
