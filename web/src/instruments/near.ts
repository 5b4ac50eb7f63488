// Whether an element is in sight or near it, so that long lists draw what can
// be seen and keep the room of the rest. All elements share one observer.
import { onScopeDispose, ref, watch, type Ref } from 'vue'

const watched = new WeakMap<Element, (near: boolean) => void>()
let observer: IntersectionObserver | undefined

/** True from when the element is within a window's height of being seen; always where the browser cannot say. */
export function useNear(element: Ref<Element | null>): Ref<boolean> {
  if (typeof IntersectionObserver === 'undefined') return ref(true)
  observer ??= new IntersectionObserver(
    (entries) => entries.forEach((e) => watched.get(e.target)?.(e.isIntersecting)),
    {
      rootMargin: '100% 0px',
    },
  )
  const near = ref(false)
  const look = observer
  const stop = watch(
    element,
    (now, was) => {
      if (was) look.unobserve(was)
      if (!now) return
      watched.set(now, (is) => (near.value = is))
      look.observe(now)
    },
    { immediate: true, flush: 'post' },
  )
  onScopeDispose(() => {
    stop()
    if (element.value) look.unobserve(element.value)
  })
  return near
}
