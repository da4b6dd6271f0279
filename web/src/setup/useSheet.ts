import { type Ref, computed, reactive, ref } from 'vue'
import { useRouter } from 'vue-router'
import type { ChangeKind } from '../common/change/registry'
import { useChange } from '../common/change/useChange'
import { useDraft } from '../common/draft/useDraft'
import { useAddress } from '../common/useAddress'

/** A sheet as the server has it. */
interface Seen {
  code: string
  version: number
  by: string
  change: number
}

/** How a sheet of one kind is typed and kept. */
interface Kind<View extends Seen, Draft extends object, Body> {
  /** As people call it. */
  name: string
  /** Of all sheets of the kind. */
  path: string
  view: () => View | undefined
  empty: () => Draft
  draftOf: (view: View) => Draft
  bodyOf: (draft: Draft) => Body
  save: ChangeKind<{ code: string; body: Body }, unknown>
}

/** A sheet that is written as a whole, or a new one: what is typed, what is sent, and what stands around it. */
export function useSheet<View extends Seen, Draft extends object, Body>(kind: Kind<View, Draft, Body>) {
  const router = useRouter()
  const { to } = useAddress()
  const code = ref(kind.view()?.code ?? '')
  const started = reactive(kind.empty()) as Draft
  const kept = useDraft<View, Draft>({
    theirs: kind.view,
    of: (view) => view.code,
    version: (view) => view.change,
    draftOf: kind.draftOf,
    same: (mine, view) => JSON.stringify(mine) === JSON.stringify(kind.draftOf(view)),
    name: () => `the ${kind.name} ${code.value}`,
  })
  const draft = computed(() => (kind.view() ? kept.draft.value : started)) as Readonly<Ref<Draft>>
  const body = computed(() => kind.bodyOf(draft.value))
  const save = useChange(kind.save, async () => {
    if (!kind.view()) await router.push(to(`${kind.path}/${code.value.trim()}`))
  })
  const wrong = (field: string) => save.problem.value?.of(field)
  function takeBack() {
    save.reset()
    kept.takeTheirs()
  }
  /** What stands around it. */
  const frame = computed(() => ({
    kind: kind.name,
    path: kind.path,
    isNew: !kind.view(),
    isChanged: !!kind.view() && kept.changed.value,
    newer: kind.view() ? kept.newer.value : undefined,
    isPending: save.isPending.value,
    error: save.error.value,
    onSend: () =>
      save.mutate({ code: code.value.trim(), body: body.value }, kind.view() ? kept.basedOn() : undefined),
    onTakeBack: takeBack,
    onKeepMine: () => kept.keepMine(),
  }))
  return { code, draft, body, wrong, frame }
}
