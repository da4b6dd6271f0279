import { ElMessageBox } from 'element-plus'
import 'element-plus/es/components/message-box/style/css'

/** Asks before something is done that can't be taken back; the answer is whether to do it. */
const asked = (title: string, words: string, yes: string, no: string, customClass: string) =>
  ElMessageBox.confirm(words, title, { confirmButtonText: yes, cancelButtonText: no, customClass }).then(
    () => true,
    () => false,
  )

/** Whether to leave what is not saved. */
export const askToLeave = (name: string) =>
  asked(
    'Leave without saving?',
    `Your changes to ${name} are not saved.`,
    'Leave without saving',
    'Stay here',
    'leaving',
  )

/** Whether to end something for good: `verb` with the `thing` it is done to, and what follows. */
export const askToEnd = (verb: string, thing: string, follows: string) =>
  asked(`${verb} ${thing}?`, follows, `${verb} it`, 'Leave it', 'ending')
