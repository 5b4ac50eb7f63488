// Lists to choose from and menus come into the page when they are opened, not before: each costs a slow machine 30 to
// 60 ms to put in place, and few of a room's are ever opened. Lists that one writes in say `persistent`: what is found
// meanwhile is chosen from what stands there.
import { ElDropdown, ElSelect } from 'element-plus'

for (const part of [ElSelect, ElDropdown])
  (part.props as Record<string, { default: boolean }>).persistent!.default = false
