import { choice, type Settings } from '../declare/settings'

/*
 * Operations that came to work better at the same settings. A step that is made now works as they do now; one that was made before keeps
 * what it did, to the pixel, until somebody says otherwise.
 */

/** Shown only on steps that were made before. */
export const editionSetting = (help: string) =>
  choice({
    label: 'Works as',
    options: [
      { value: 'now', label: 'It does now' },
      { value: 'first', label: 'It did at first' },
    ],
    default: 'now',
    help,
    shownWhen: { setting: 'edition', is: ['first'] },
  })

/**
 * Settings without an edition were written before there was another.
 * @param defaults what was taken then for settings that were not named, where that is another now
 */
export const withEdition = (old: Settings, defaults: Settings = {}): Settings =>
  'edition' in old ? old : { edition: 'first', ...defaults, ...old }
