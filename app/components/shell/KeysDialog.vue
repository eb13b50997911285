<script setup lang="ts">
/** The list of keys. */
const open = defineModel<boolean>({ required: true })
const GROUPS = [
  {
    name: 'Everywhere',
    keys: [
      ['?', 'this list'],
      ['D', 'light or dim theme'],
      ['Ctrl Z', 'undo'],
      ['Ctrl Shift Z', 'redo'],
      ['P', 'pour what is picked'],
      ['Ctrl D', 'duplicate what is chosen: an outlet, a step, an element'],
      ['Ctrl C Ctrl V', 'copy and paste it, to another source or scene as well'],
      ['Delete', 'remove it'],
      ['Shift F10', 'what can be done with it, as a right click shows']
    ]
  },
  {
    name: 'Board',
    keys: [
      ['Arrows', 'go from cell to cell'],
      ['Enter', 'choose for the inspector'],
      ['Space', 'pick a cell for pouring'],
      ['B', 'open the source on the bench']
    ]
  },
  {
    name: 'Viewer',
    keys: [
      ['Space', 'play or stop'],
      ['← →', 'one frame'],
      ['Shift ← →', 'ten frames'],
      ['Home End', 'first and last frame'],
      ['I O', 'mark where the range begins and ends'],
      ['1 to 9', 'backdrop'],
      ['G', 'safe areas'],
      ['V', 'next view'],
      ['Z', 'fit, 100 %, 200 %, 800 %'],
      ['L', 'loop'],
      ['S', 'play the seam of the loop alone']
    ]
  },
  {
    name: 'Preparation',
    keys: [
      ['Alt ↑ ↓', 'move the step'],
      ['Delete', 'remove the step'],
      ['Arrows', 'move what is drawn; Shift by ten, Alt sizes it'],
      ['Enter Esc', 'end drawing, give up picking']
    ]
  }
]
</script>

<template>
  <el-dialog v-model="open" title="Keys" width="1060px" align-center>
    <div class="groups">
      <section v-for="group in GROUPS" :key="group.name">
        <h2>{{ group.name }}</h2>
        <dl>
          <template v-for="[key, what] in group.keys" :key="key">
            <dt>
              <kbd>{{ key }}</kbd>
            </dt>
            <dd>{{ what }}</dd>
          </template>
        </dl>
      </section>
    </div>
  </el-dialog>
</template>

<style scoped>
.groups {
  display: grid;
  grid-template-columns: 0.9fr 1fr 1.15fr 1.2fr;
  gap: 24px;
}

dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 7px 12px;
  margin-top: 10px;
}

dt {
  white-space: nowrap;
}
</style>
