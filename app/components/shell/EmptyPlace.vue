<script setup lang="ts">
/** A place with nothing in it: one picture, what the place is for, what to do first; together in the middle. */
defineProps<{ title: string }>()
</script>

<template>
  <div class="place-empty">
    <svg width="132" height="96" viewBox="0 0 132 96" aria-hidden="true">
      <defs>
        <pattern :id="'empty-checker'" width="12" height="12" patternUnits="userSpaceOnUse">
          <rect width="12" height="12" class="light" />
          <rect width="6" height="6" class="dark" />
          <rect x="6" y="6" width="6" height="6" class="dark" />
        </pattern>
        <clipPath id="empty-level"><rect x="40" y="52" width="52" height="44" /></clipPath>
      </defs>
      <rect x="1" y="13" width="130" height="70" rx="5" fill="url(#empty-checker)" class="frame" />
      <path class="inside" d="M66 12C57 28 44 40 44 56a22 22 0 0 0 44 0C88 40 75 28 66 12Z" />
      <path
        class="fill"
        d="M66 12C57 28 44 40 44 56a22 22 0 0 0 44 0C88 40 75 28 66 12Z"
        clip-path="url(#empty-level)"
      />
      <path class="outline" d="M66 12C57 28 44 40 44 56a22 22 0 0 0 44 0C88 40 75 28 66 12Z" />
    </svg>
    <h2>{{ title }}</h2>
    <div class="text soft"><slot /></div>
    <div class="acts"><slot name="acts" /></div>
  </div>
</template>

<style scoped>
.place-empty {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  gap: 12px;
  padding: 24px;
  text-align: center;
}

h2 {
  font-size: 18px;
  margin-top: 4px;
}

.text {
  max-width: 54ch;
  display: flex;
  flex-direction: column;
  gap: 6px;
}

.acts {
  display: flex;
  gap: 8px;
  margin-top: 6px;
}

.light {
  fill: var(--raised);
}

.dark {
  fill: var(--line);
}

.frame {
  stroke: var(--line-strong);
}

.inside {
  fill: var(--raised);
  opacity: 0.72;
}

.fill {
  fill: var(--copper-fill);
  opacity: 0.82;
}

.outline {
  fill: none;
  stroke: var(--copper);
  stroke-width: 3;
}
</style>
