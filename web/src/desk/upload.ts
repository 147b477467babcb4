import type { Photo, Problem } from '@nimble-quill/contracts'

/** Sends a photo as a stream of its bytes; tells how far it is (0…1; 1 means: sent, being decoded). Rejects with a sentence. */
export function upload(file: File, onProgress: (share: number) => void, signal: AbortSignal): Promise<Photo> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest()
    request.open('POST', `/api/photos?name=${encodeURIComponent(file.name)}`)
    request.setRequestHeader('Content-Type', 'application/octet-stream')
    request.responseType = 'json'
    request.upload.onprogress = (e) => onProgress(e.lengthComputable ? e.loaded / e.total : 0)
    request.upload.onload = () => onProgress(1)
    const away = () => reject(new Error('The server broke off. Nothing was added; check the connection and drop the photo again.'))
    request.onload = () => {
      if (request.status === 201) resolve(request.response as Photo)
      else reject(new Error((request.response as Problem | null)?.detail ?? 'The photo could not be added. Nothing was changed; try again.'))
    }
    request.onerror = away
    request.onabort = () => reject(new DOMException('stopped', 'AbortError'))
    signal.addEventListener('abort', () => request.abort())
    request.send(file)
  })
}
