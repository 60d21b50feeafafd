/** The jobs that people come with, each in a few lines: what is pressed is written as it stands on the screen. */
export interface Job {
  readonly name: string
  readonly lines: readonly string[]
}

export const jobs: readonly Job[] = [
  {
    name: 'Make a folder smaller for the web',
    lines: [
      'On the bench, press Run over a folder.',
      'Choose the folder. Web set is set: 2048 px, JPEG, sRGB.',
      'Below it stands what will happen, and what the files will be called.',
      'Press Run. The originals are only read; the files go into a folder beside them.',
    ],
  },
  {
    name: 'Record a look and use it on many',
    lines: [
      'On the bench, lay a picture on the stage: + at the upper right.',
      'Press Record, then + on the wire, and set what the picture needs.',
      'Look at the small pictures at the right: the same steps on its siblings.',
      'Press Run over a folder. The steps are kept as a macro too.',
    ],
  },
  {
    name: 'Make pictures of raw files',
    lines: [
      'Lay one on the stage. Base curve lies on its wire: it makes a picture of the sensor’s light.',
      'Record; Exposure and White balance go before it, and bring back what is above white.',
      'Press Run over a folder. JPEGs among them pass by the base curve.',
      'For quick pictures of all, Run over a folder with nothing on the wire.',
    ],
  },
  {
    name: 'Put a mark on every picture',
    lines: [
      'On the bench, press + on the wire and write watermark.',
      'Stamp image lays a picture file, Stamp text a line with names or dates in it.',
      'Pull it where it belongs. It is kept with the macro: the file may move.',
      'Press Run over a folder.',
    ],
  },
  {
    name: 'Do the same again, or by itself',
    lines: [
      'Loops lists every job that was kept. Run loop does it again.',
      'Open it to change folders, names, sizes, or to deliver twice in one go.',
      'At its foot: when it starts by itself, at a time or when pictures arrive.',
      'Only what is new or changed is behind the arrow beside Run loop.',
    ],
  },
  {
    name: 'Put single pictures right',
    lines: [
      'Open the run, or the loop, and press Proof.',
      'What stands out among its neighbours is marked, and why.',
      'Nudge light, warmth or the frame. It is kept for this picture, for every later run.',
      'Deliver what was touched again with one button.',
    ],
  },
  {
    name: 'Find out what happened',
    lines: [
      'Runs lists all of them, with what was delivered and what failed.',
      'A run says of every picture where it went, how large it is, and why one failed.',
      'Report and CSV hold the same for other programs.',
      'Originals are compared before and after: the run says so.',
    ],
  },
  {
    name: 'Take only some pictures, or one',
    lines: [
      'In a loop, Only these opens all pictures of its folder to tick.',
      'Drop files or a folder from the desktop on a loop: it runs over them at once.',
      'From a run, the proof or the bench’s tray: Take these into a loop.',
      'For the picture in hand alone: Deliver, below it, or Ctrl/⌘ Enter.',
    ],
  },
  {
    name: 'Send a contact sheet, or one PDF',
    lines: [
      'Run over a folder, with Contact sheet or Set in one PDF.',
      'In a loop’s delivery, Many on a page or A page each; the page is shown as you set it.',
      'Of what is delivered already: Gather on pages, on the run’s page or in the proof.',
      'The file lies in the delivery’s folder, and is linked on the run’s page.',
    ],
  },
]
