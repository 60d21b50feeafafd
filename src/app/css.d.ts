declare module '*.module.css' {
  const classes: Readonly<Record<string, string>>
  export default classes
}
declare module '*.css'
declare module '@fontsource-variable/instrument-sans'
declare module '@fontsource-variable/jetbrains-mono'
