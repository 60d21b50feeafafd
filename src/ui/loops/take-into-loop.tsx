'use client'

import { App, Button, Form, Input, Modal, Radio, Select } from 'antd'
import { useRouter } from 'next/navigation'
import { type ReactNode, useState } from 'react'
import { counted } from '@/base/format'
import { freeName } from '@/base/free-name'
import type { Loop } from '@/jobs/loop'
import { loopOfPicked, takingPicked } from '@/jobs/picked'
import type { Question } from '@/macros/open'
import { useLoops, useSaveLoop, useSettings } from '../api/queries'
import { focusOnceThere } from '../controls/focus-once-there'
import { AskBefore } from './ask-before'
import { useRunAndGo } from './use-run-loop'

interface Props {
  /** Nothing: nothing is asked now. */
  paths: readonly string[] | undefined
  onClose(): void
}

/** Gives some pictures to a loop: a new one, or one that is there, once or from now on. */
export function TakeIntoLoop({ paths, onClose }: Props): ReactNode {
  return (
    <Modal
      title={`Take ${counted(paths?.length ?? 0, 'picture')} into a loop`}
      open={paths !== undefined}
      onCancel={onClose}
      footer={null}
      destroyOnHidden
    >
      {paths && <Choice paths={paths} onClose={onClose} />}
    </Modal>
  )
}

const aNewOne = ''

/** What a loop that is there does with the pictures. */
type How = 'once' | 'fromNow'

function Choice({ paths, onClose }: { paths: readonly string[]; onClose(): void }): ReactNode {
  const { message } = App.useApp()
  const router = useRouter()
  const { data: loops = [] } = useLoops()
  const { data: settings } = useSettings()
  const save = useSaveLoop()
  const { run, answer, isStarting } = useRunAndGo(paths)
  const [id] = useState(() => crypto.randomUUID())
  const [chosen, setChosen] = useState(aNewOne)
  const [typedName, setName] = useState<string>()
  const [how, setHow] = useState<How>('once')
  const [questions, setQuestions] = useState<readonly Question[]>()
  const loop = loops.find((candidate) => candidate.id === chosen)
  const name = (typedName ?? freeName('Picked pictures', loops)).trim()
  const pictures = counted(paths.length, 'picture')

  const store = (taking: Loop): void =>
    void save.mutateAsync(taking).then(
      () => {
        onClose()
        router.push(`/loops/${taking.id}`)
      },
      (problem: Error) => void message.error(problem.message, 8),
    )
  const act = (): void => {
    if (!loop) store(loopOfPicked(id, name, paths, settings?.roots.map(({ path }) => path) ?? []))
    else if (how === 'fromNow') store(takingPicked(loop, paths))
    else void run(loop.id, setQuestions)
  }
  return (
    <>
      <Form layout="vertical" onFinish={act}>
        <Form.Item label="Which loop">
          <Select
            aria-label="Which loop"
            ref={focusOnceThere}
            showSearch={{ optionFilterProp: 'label' }}
            value={chosen}
            onChange={setChosen}
            options={[{ value: aNewOne, label: 'A new loop' }, ...loops.map((each) => ({ value: each.id, label: each.name }))]}
          />
        </Form.Item>
        {loop ? (
          <Form.Item label="How">
            <Radio.Group value={how} onChange={(event) => setHow(event.target.value)} aria-label="How">
              <Radio value="once">Run it over these now, once</Radio>
              <Radio value="fromNow">
                {loop.intake.picked
                  ? `Let it take these besides the ${loop.intake.picked.length.toLocaleString('en-GB')} that it takes`
                  : 'Let it take these from now on, in place of its folder'}
              </Radio>
            </Radio.Group>
          </Form.Item>
        ) : (
          <Form.Item label="Its name">
            <Input aria-label="Its name" maxLength={120} value={typedName ?? name} onChange={(event) => setName(event.target.value)} />
          </Form.Item>
        )}
        <Button type="primary" htmlType="submit" loading={isStarting || save.isPending} disabled={!loop && name === ''}>
          {!loop ? 'Make the loop' : how === 'once' ? `Run over ${pictures}` : `Take ${pictures} in`}
        </Button>
      </Form>
      <AskBefore
        way={questions && 'all'}
        questions={questions ?? []}
        onClose={() => setQuestions(undefined)}
        onAnswer={({ answers }) => {
          setQuestions(undefined)
          if (loop) void answer(loop.id, answers)
        }}
      />
    </>
  )
}
