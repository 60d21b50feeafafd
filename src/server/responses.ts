/** Content as a file to save. The name is given twice, plain and in UTF-8 (RFC 6266). */
export function attachment(content: string | Buffer, fileName: string, type: string): Response {
  const plain = fileName.replace(/[^\x20-\x7e]|["\\/]/g, '_')
  const encoded = encodeURIComponent(fileName.replace(/[\\/]/g, '_'))
  return new Response(typeof content === 'string' ? content : new Uint8Array(content), {
    headers: { 'Content-Type': type, 'Content-Disposition': `attachment; filename="${plain}"; filename*=UTF-8''${encoded}` },
  })
}
