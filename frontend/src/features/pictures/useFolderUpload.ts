import { API } from '@/api/root'
import { onMounted, onScopeDispose, ref } from 'vue'
import { answer, api } from '@/api/client'

export interface Sent {
  name: string
  file: File
}
const PICTURE = /\.(jpe?g|png|tiff?|heic|heif|webp|dng)$/i

/** Pictures out of what was dropped: files, and folders with all below them. */
export async function picturesOf(entries: readonly FileSystemEntry[]): Promise<Sent[]> {
  const found: Sent[] = []
  for (const entry of entries) {
    if (entry.name.startsWith('.')) continue
    if (entry.isDirectory) found.push(...(await picturesOf(await within(entry as FileSystemDirectoryEntry))))
    else if (PICTURE.test(entry.name)) {
      const file = await new Promise<File>((done, failed) =>
        (entry as FileSystemFileEntry).file(done, failed),
      )
      found.push({ name: entry.fullPath.replace(/^\//, ''), file })
    }
  }
  return found
}

/** A folder's entries; the browser hands them out in portions. */
async function within(folder: FileSystemDirectoryEntry): Promise<FileSystemEntry[]> {
  const reader = folder.createReader()
  const found: FileSystemEntry[] = []
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((done, failed) => reader.readEntries(done, failed))
    if (!some.length) return found
    found.push(...some)
  }
}

/** Pictures of a chosen folder. */
export function picturesIn(files: readonly File[]): Sent[] {
  return files
    .filter((f) => PICTURE.test(f.name) && !f.name.startsWith('.'))
    .map((file) => ({ name: file.webkitRelativePath || file.name, file }))
}

/** Sends a folder's pictures one by one; `ready` is given where they lie. */
export function useFolderUpload(ready: (folder: string) => void) {
  const sending = ref(false)
  const done = ref(0)
  const total = ref(0)
  const error = ref('')
  let stopped = false

  async function send(pictures: readonly Sent[]): Promise<void> {
    if (sending.value) return
    error.value = pictures.length ? '' : 'There are no pictures among them. Choose another folder.'
    if (!pictures.length) return
    sending.value = true
    stopped = false
    done.value = 0
    total.value = pictures.length
    const left: string[] = []
    try {
      const made = await answer(api.POST('/api/picture-sets/uploads'))
      for (const picture of pictures) {
        if (stopped) return
        if (!(await sent(made.key, picture))) left.push(picture.name)
        done.value += 1
      }
      if (left.length) error.value = `${left.length} could not be taken in, the first: ${left[0]}.`
      if (left.length < pictures.length) ready(made.folder)
    } catch (problem) {
      error.value = (problem as Error).message
    } finally {
      sending.value = false
    }
  }

  async function sent(key: string, picture: Sent): Promise<boolean> {
    const name = encodeURIComponent(picture.name)
    const response = await fetch(`${API}/picture-sets/uploads/${key}/files?name=${name}`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/octet-stream' },
      body: picture.file,
    })
    return response.ok
  }

  async function drop(event: DragEvent): Promise<void> {
    const entries = [...(event.dataTransfer?.items ?? [])]
      .map((item) => item.webkitGetAsEntry())
      .filter((entry) => entry !== null)
    if (!entries.length) return
    event.preventDefault()
    await send(await picturesOf(entries))
  }
  const heard = (event: DragEvent): void => void drop(event)
  onMounted(() => window.addEventListener('drop', heard, true))
  onScopeDispose(() => {
    stopped = true
    window.removeEventListener('drop', heard, true)
  })
  return { send, sending, done, total, error, stop: () => (stopped = true) }
}
