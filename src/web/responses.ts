/** Headers of content that is saved as a file. The name is given twice, plain and in UTF-8 (RFC 6266). */
export function attachmentHeaders(fileName: string, type: string): Record<string, string> {
  const plain = fileName.replace(/[^\x20-\x7e]|["\\/]/g, '_')
  const encoded = encodeURIComponent(fileName.replace(/[\\/]/g, '_'))
  return { 'Content-Type': type, 'Content-Disposition': `attachment; filename="${plain}"; filename*=UTF-8''${encoded}` }
}

/** Content as a file to save. */
export const attachment = (content: string | Buffer, fileName: string, type: string): Response =>
  new Response(typeof content === 'string' ? content : new Uint8Array(content), { headers: attachmentHeaders(fileName, type) })
