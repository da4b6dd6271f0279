import { ElMessageBox } from 'element-plus'
import 'element-plus/es/components/message-box/style/css'

/** Asks whether to leave what is not saved; the answer is whether to go. */
export const askToLeave = (name: string) =>
  ElMessageBox.confirm(`Your changes to ${name} are not saved.`, 'Leave without saving?', {
    confirmButtonText: 'Leave without saving',
    cancelButtonText: 'Stay here',
    customClass: 'leaving',
  }).then(
    () => true,
    () => false,
  )
