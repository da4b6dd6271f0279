import { type Ref, shallowRef, watch } from 'vue'

/**
 * What to ask the server about while `wanted` goes on changing: at once where nothing is under way, else as soon as the
 * last answer is there. So a verdict follows a hand that never rests, at the pace of the server, and no questions queue up.
 * Call `follow` with whether a question is under way.
 */
export function usePaced<T>(wanted: Readonly<Ref<T>>) {
  const asked = shallowRef(wanted.value)
  const follow = (underWay: Readonly<Ref<boolean>>) =>
    watch([wanted, underWay], () => {
      if (!underWay.value) asked.value = wanted.value
    })
  return { asked, follow }
}
