/** What bringing in asks of files, answered where the page does not wait for it. */
import type { FileRef } from '../../base/files/file'
import type { FilesSpec } from '../../source/source'
import type { WorkContext } from '../../open/context'
import type { TasksOf } from '../../base/pool'
import { lookingAt } from './intake'

export const intakeTasks = {
  unpackFile: (context: WorkContext, file: FileRef) => lookingAt(context.host).unpack(file),
  noteIn: (context: WorkContext, file: FileRef) => lookingAt(context.host).note(file),
  recogniseFile: (context: WorkContext, file: FileRef) => lookingAt(context.host).look(file),
  describe: (context: WorkContext, spec: Omit<FilesSpec, 'id'>) => lookingAt(context.host).describe(spec)
}

export type IntakeTasks = TasksOf<typeof intakeTasks>
