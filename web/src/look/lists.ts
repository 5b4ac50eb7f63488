// Lists to choose from and menus come into the page when they are opened, not before: few of a room's are ever opened,
// and putting the six of Now & next in place was more than half of the work of showing it. Lists that one types into
// say `persistent`: what is found meanwhile is chosen from what stands there.
import { ElDropdown, ElSelect } from 'element-plus'

for (const part of [ElSelect, ElDropdown])
  (part.props as Record<string, { default: boolean }>).persistent!.default = false
