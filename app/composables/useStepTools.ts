/**
 * Picking a colour, drawing a box or a shape, taking hold of a frame in the viewer for a step, and finding what can be
 * found.
 */
import { useSteps } from '~/composables/useSteps'
import { computed, ref, watch, type ComputedRef, type Ref } from 'vue'
import type { Point, Tool } from '~/components/viewer/ToolLayer.vue'
import { useSources } from '~/stores/sources'
import { useWorkshop } from '~/stores/workshop'
import { isAbort, sentenceOf } from '~~/core/base/errors'
import type { Box } from '~~/core/base/settings/box'
import type { JobSource } from '~~/core/job/job'
import { colourAt } from '~~/core/prepare/content'
import { contentOfClip } from '~~/core/prepare/content-of-clip'
import { stepKindById } from '~~/core/prepare/kinds'
import { preparedFacts, type Step } from '~~/core/prepare/preparation'
import { shapeAt, withShapeAt, type ShapeAt } from '~~/core/base/settings/shape'
import type { SourceFacts, SourceSpec } from '~~/core/source/source'

export interface StepTools {
  /** The step whose setting is being picked or drawn. */
  step: ComputedRef<Step | null>
  /** The steps that make the picture it is picked or drawn in. */
  upTo: ComputedRef<Step[]>
  /** What the viewer is to offer; null for nothing. */
  tool: ComputedRef<Tool | null>
  /** The field that something is being found for. */
  busy: Ref<string | null>
  wrong: Ref<string | null>
  take(step: Step, field: string, kind: string): void
  end(): void
  pick(at: Point): Promise<void>
  draw(points: Point[], done: boolean): Promise<void>
  find(step: Step, what: 'content' | 'screen', field: string): Promise<void>
}

/** The box between two corners, of at least a pixel. */
function boxOf(points: readonly Point[]): Box {
  const [[ax, ay], [bx, by]] = [points[0]!, points[1]!]
  return {
    x: Math.min(ax, bx),
    y: Math.min(ay, by),
    width: Math.max(1, Math.abs(ax - bx)),
    height: Math.max(1, Math.abs(ay - by))
  }
}

/** `index` is the frame shown, counted from 0, of the clip as the step in hand is given it. */
export function useStepTools(
  source: Ref<JobSource | null>,
  steps: Ref<readonly Step[]>,
  index: Ref<number>
): StepTools {
  const sources = useSources()
  const workshop = useWorkshop()
  const edits = useSteps()
  const held = ref<{ step: string; field: string; kind: Tool['kind']; points: Point[]; closed: boolean } | null>(null)
  const step = computed(() => steps.value.find(s => s.id === held.value?.step) ?? null)
  const handle = computed(() =>
    held.value?.kind === 'handle' && step.value ? (stepKindById(step.value.kind).handle ?? null) : null
  )
  const upTo = computed(() => {
    const at = steps.value.findIndex(s => s.id === step.value?.id)
    return at < 0 ? [...steps.value] : steps.value.slice(0, handle.value?.over === 'made' ? at + 1 : at)
  })
  const tool = computed<Tool | null>(() => {
    if (!held.value || !step.value) return null
    const { kind, points, closed } = held.value
    if (kind === 'pick') return { kind }
    if (kind === 'polygon') return { kind, points, closed }
    return kind === 'handle'
      ? { kind, points: handlePoints(step.value), sized: handle.value?.sized ?? false }
      : { kind, points }
  })
  const busy = ref<string | null>(null)
  const wrong = ref<string | null>(null)
  watch(
    () => source.value?.id,
    () => (held.value = wrong.value = null)
  )

  // a shape in hand is the one of the frame shown
  watch(index, at => {
    const [now, of] = [held.value, step.value]
    if (!now?.closed || !of) return
    const shape = shapeAt(of.settings[now.field] as ShapeAt[], at + 1)
    if (shape?.kind === now.kind) held.value = { ...now, points: shape.points.map(([x, y]): Point => [x, y]) }
  })

  async function set(of: Step, settings: Step['settings']): Promise<void> {
    if (source.value)
      await edits.edit(source.value.id, `Set ${stepKindById(of.kind).name}`, all =>
        all.map(s => (s.id === of.id ? { ...s, settings: { ...s.settings, ...settings } } : s))
      )
  }

  /** The clip as a step is given it. */
  function before(of: Step): { spec: SourceSpec; facts: SourceFacts } | null {
    const earlier = steps.value.slice(
      0,
      steps.value.findIndex(s => s.id === of.id)
    )
    const spec = source.value && sources.specOf(source.value, { steps: earlier })
    return spec && source.value ? { spec, facts: preparedFacts(sources.foundFactsOf(source.value), earlier) } : null
  }

  /** Corners of a step's handle, as its settings stand. */
  function handlePoints(of: Step): Point[] {
    const given = before(of)
    const box = given && stepKindById(of.kind).handle?.box(given.facts, of.settings as never)
    return box
      ? [
          [box.x, box.y],
          [box.x + box.width, box.y + box.height]
        ]
      : []
  }

  return {
    step,
    upTo,
    tool,
    busy,
    wrong,
    take(of, field, kind) {
      const value = of.settings[field]
      let points: Point[] = []
      let closed = false
      if (kind === 'box' && value) {
        const { x, y, width, height } = value as Box
        points = [
          [x, y],
          [x + width, y + height]
        ]
      } else if (kind !== 'pick' && kind !== 'box' && kind !== 'handle') {
        const now = shapeAt(value as ShapeAt[], index.value + 1)
        // a shape that is there already is taken hold of; it is drawn anew once it is removed
        if (now?.kind === kind) points = now.points.map(([x, y]): Point => [x, y])
        closed = points.length > 1
      }
      held.value =
        held.value?.step === of.id && held.value.kind === kind
          ? null
          : { step: of.id, field, kind: kind as Tool['kind'], points, closed }
    },
    end: () => void (held.value = null),
    async pick([x, y]) {
      const [of, field] = [step.value, held.value?.field]
      const given = of && before(of)
      if (!of || !field || !given) return
      const colour = colourAt(await workshop.pool.run('frame', [given.spec, index.value], { priority: 'now' }), x, y)
      if (!colour) return
      held.value = null
      await set(of, { [field]: colour })
    },
    async draw(points, done) {
      const [of, now] = [step.value, held.value]
      if (!of || !now) return
      held.value = { ...now, points, closed: now.closed || (now.kind !== 'polygon' && done) }
      if (now.kind === 'box') await set(of, { [now.field]: boxOf(points) })
      else if (now.kind === 'handle') {
        const given = before(of)
        if (given) await set(of, stepKindById(of.kind).handle!.set(boxOf(points), given.facts))
      } else if (now.kind !== 'pick' && done) {
        await set(of, {
          [now.field]: withShapeAt(of.settings[now.field] as ShapeAt[], {
            frame: index.value + 1,
            kind: now.kind,
            points
          })
        })
        // what was closed keeps its points in hand
        if (now.kind === 'polygon') held.value = { ...now, points, closed: true }
      }
    },
    async find(of, what, field) {
      const given = before(of)
      if (!given || busy.value) return
      busy.value = field
      wrong.value = null
      try {
        const value =
          what === 'screen'
            ? await workshop.pool.run('screenColour', [given.spec, Math.min(index.value, given.facts.frames - 1)], {
                priority: 'now'
              })
            : await contentOfClip(given.spec, given.facts.frames, workshop.pool)
        if (value) await set(of, { [field]: value })
        else wrong.value = 'No frame has anything to be seen.'
      } catch (error) {
        if (!isAbort(error)) wrong.value = sentenceOf(error)
      } finally {
        busy.value = null
      }
    }
  }
}
