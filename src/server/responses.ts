/** A text as a file to save. The name is given twice, plain and in UTF-8 (RFC 6266). */
export function attachment(text: string, fileName: string, type: string): Response {
  const plain = fileName.replace(/[^\x20-\x7e]|["\\/]/g, '_')
  const encoded = encodeURIComponent(fileName.replace(/[\\/]/g, '_'))
  return new Response(text, {
    headers: { 'Content-Type': type, 'Content-Disposition': `attachment; filename="${plain}"; filename*=UTF-8''${encoded}` },
  })
}
