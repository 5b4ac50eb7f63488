import { ElMessage } from 'element-plus'
import { h } from 'vue'

/** Says something in passing, with a way back where there is one; a way back that fails says why. */
export function tell(text: string, type: 'success' | 'warning' | 'error' = 'success', undo?: () => unknown): void {
  const message = ElMessage({
    type,
    // At the foot, where it covers neither the rooms nor the viewpoint.
    placement: 'bottom',
    duration: undo ? 8000 : 4000,
    showClose: true,
    message: undo
      ? h('span', [
          text + ' ',
          h(
            'button',
            {
              class: 'word',
              onClick: async () => {
                message.close()
                try {
                  await undo()
                } catch (e) {
                  tell((e as Error).message, 'error')
                }
              },
            },
            'Undo',
          ),
        ])
      : text,
  })
}
