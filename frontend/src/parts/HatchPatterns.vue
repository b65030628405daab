<template>
  <!-- One hatch each for scaling, packing and platform; referred to by every gauge on the screen. -->
  <svg width="0" height="0" class="defs" aria-hidden="true">
    <defs>
      <pattern id="hatch-platform" width="0.9" height="5" patternUnits="userSpaceOnUse" patternTransform="skewX(-12)">
        <rect width="0.9" height="5" class="ground" />
        <rect width="0.42" height="5" class="mark" />
      </pattern>
      <pattern id="hatch-packing" width="4" height="1.7" patternUnits="userSpaceOnUse">
        <rect width="4" height="1.7" class="ground" />
        <rect width="4" height="0.8" class="mark" />
      </pattern>
      <pattern id="hatch-scaling" width="0.7" height="5" patternUnits="userSpaceOnUse">
        <rect width="0.7" height="5" class="ground" />
        <rect width="0.2" height="5" class="ink" />
      </pattern>
    </defs>
  </svg>
</template>

<style scoped>
.defs {
  position: absolute;
}

.ground {
  fill: color-mix(in srgb, var(--kraft) 22%, var(--sheet));
}

.mark {
  fill: var(--twine);
}

.ink {
  fill: var(--second-ink);
}
</style>
