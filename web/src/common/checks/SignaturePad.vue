<script setup lang="ts">
import { onMounted, ref, useTemplateRef } from 'vue'

/** A place to sign: with a finger or a pen, or by typing the name. */
const emit = defineEmits<{ signed: [file: File]; cleared: [] }>()
const canvas = useTemplateRef<HTMLCanvasElement>('canvas')
const name = ref('')
const isSigned = ref(false)
let isDown = false

function ink(): CanvasRenderingContext2D | undefined {
  const drawn = canvas.value?.getContext('2d')
  if (!drawn) return undefined
  drawn.lineWidth = 5
  drawn.lineCap = 'round'
  drawn.lineJoin = 'round'
  // On white in every theme: it is kept as a picture.
  drawn.strokeStyle = drawn.fillStyle = '#241f18'
  return drawn
}
function wipe() {
  const drawn = ink()
  if (!drawn || !canvas.value) return
  drawn.fillStyle = '#ffffff'
  drawn.fillRect(0, 0, canvas.value.width, canvas.value.height)
}
onMounted(wipe)

function at(event: PointerEvent): [number, number] {
  const box = canvas.value!.getBoundingClientRect()
  const scale = canvas.value!.width / box.width
  return [(event.clientX - box.left) * scale, (event.clientY - box.top) * scale]
}
function down(event: PointerEvent) {
  canvas.value?.setPointerCapture(event.pointerId)
  isDown = true
  const drawn = ink()
  drawn?.beginPath()
  drawn?.moveTo(...at(event))
}
function move(event: PointerEvent) {
  if (!isDown) return
  const drawn = ink()
  drawn?.lineTo(...at(event))
  drawn?.stroke()
}
function up() {
  if (!isDown) return
  isDown = false
  keep()
}
function keep() {
  isSigned.value = true
  canvas.value?.toBlob((blob) => {
    if (blob) emit('signed', new File([blob], 'signature.png', { type: 'image/png' }))
  }, 'image/png')
}
function write() {
  if (!name.value.trim()) return
  wipe()
  const drawn = ink()
  if (drawn) {
    drawn.font = 'italic 84px "Source Serif 4 Variable", Georgia, serif'
    drawn.fillText(name.value.trim(), 40, 180, 820)
  }
  keep()
}
function clear() {
  wipe()
  name.value = ''
  isSigned.value = false
  emit('cleared')
}
</script>

<template>
  <div class="pad">
    <canvas
      ref="canvas"
      width="900"
      height="280"
      role="img"
      aria-label="Sign here"
      data-test="signature"
      @pointerdown.prevent="down"
      @pointermove="move"
      @pointerup="up"
      @pointercancel="up"
    />
    <p>
      <input
        v-model="name"
        class="line"
        placeholder="or type the name"
        aria-label="Sign by typing the name"
        @keydown.enter.prevent="write"
        @change="write"
      />
      <button v-if="isSigned" type="button" class="act" @click="clear">Sign again</button>
    </p>
  </div>
</template>

<style scoped>
canvas {
  display: block;
  width: 100%;
  max-width: 520px;
  border: 1px solid var(--rule-2);
  border-bottom: 2px solid var(--ink);
  border-radius: 3px;
  background: #ffffff;
  touch-action: none;
  cursor: crosshair;
}

p {
  display: flex;
  gap: 14px;
  max-width: 520px;
  margin: 8px 0 0;
}

input {
  flex: 1;
  min-height: 44px;
}
</style>
