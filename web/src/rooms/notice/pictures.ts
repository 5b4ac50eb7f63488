// Pictures of the site within a text: they are named by their file, and shown from where the
// program keeps them.
import Image from '@tiptap/extension-image'

const scheme = 'image:'

/** Shows what a text names as image:FILE from `folder`. */
export const pictures = (folder: string) =>
  Image.extend({
    addNodeView() {
      return ({ node }) => {
        const dom = document.createElement('img')
        dom.src = String(node.attrs.src).replace(scheme, folder)
        dom.alt = node.attrs.alt ?? ''
        return { dom }
      }
    },
  }).configure({ inline: false, allowBase64: false })

/** What stands in a text for one of the site's images. */
export const pictureOf = (file: string, alt: string) => ({ src: scheme + file, alt })
