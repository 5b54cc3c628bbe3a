import { mount, RouterLinkStub } from '@vue/test-utils'
import PrimeVue from 'primevue/config'
import { describe, expect, it, vi } from 'vitest'
import { createMemoryHistory, createRouter } from 'vue-router'
import PictureChoice from '@/shared/components/PictureChoice.vue'
import { useUndo } from '@/shared/composables/useUndo'
import { setTitle } from '@/shared/lib/title'
import NowhereView from './NowhereView.vue'
import UndoNote from './UndoNote.vue'

describe('NowhereView', () => {
  const at = async (path: string): Promise<string> => {
    const page = { template: '<p />' }
    const names = ['bench', 'bodies', 'pictures', 'jobs', 'kit', 'practice', 'schools']
    const router = createRouter({
      history: createMemoryHistory(),
      routes: [
        ...names.map((name) => ({ path: `/at-${name}`, name, component: page })),
        { path: '/:rest(.*)*', name: 'nowhere', component: page },
      ],
    })
    await router.push(path)
    const view = mount(NowhereView, { global: { plugins: [router], stubs: { RouterLink: RouterLinkStub } } })
    return view.text()
  }
  it('says where one was going and offers the nearest room', async () => {
    expect(await at('/visitors/99')).toContain('There is no page at /visitors/99')
    expect(await at('/visitors/99')).toContain('To the bench, with all open visits')
    expect(await at('/cameras')).toContain('To all cameras')
    expect(await at('/cameras')).toContain('Back to the frames')
    expect(await at('/xyz')).not.toContain('To ')
  })
})

describe('useUndo', () => {
  it('offers to put back until it was done, and says why it could not be', async () => {
    const run = vi.fn().mockRejectedValueOnce(new Error('Its visit is gone.')).mockResolvedValue(null)
    const note = mount(UndoNote, { global: { plugins: [PrimeVue] } })
    expect(note.text()).toBe('')
    const { offer, undo, offered } = useUndo()
    offer({ words: 'Deleted: a.jpg.', run })
    await note.vm.$nextTick()
    expect(note.text()).toContain('Deleted: a.jpg.')
    await undo()
    await note.vm.$nextTick()
    expect(note.text()).toContain('Its visit is gone.')
    offer({ words: 'Deleted: b.jpg.', run })
    await undo()
    expect(offered.value).toBeNull()
    note.unmount()
  })
})

describe('PictureChoice', () => {
  const options = [
    { label: 'f/8', value: 8 },
    { label: 'f/16', value: 16 },
  ]
  it('takes one, or several in the order they stand', async () => {
    const one = mount(PictureChoice, { props: { label: 'Kind', options, modelValue: 8 } })
    expect(one.findAll('input[type=radio]')).toHaveLength(2)
    await one.findAll('input')[1]?.trigger('change')
    expect(one.emitted('update:modelValue')?.[0]).toEqual([16])
    const several = mount(PictureChoice, {
      props: { label: 'Stops', options, several: true, modelValue: [16] },
    })
    await several.findAll('input')[0]?.trigger('change')
    expect(several.emitted('update:modelValue')?.[0]).toEqual([[8, 16]])
    await several.findAll('input')[1]?.trigger('change')
    expect(several.emitted('update:modelValue')?.at(-1)).toEqual([[8]])
  })
})

describe('setTitle', () => {
  it('puts what is nearest first', () => {
    setTitle('Tarn Meridian S', 'visit')
    expect(document.title).toBe('Tarn Meridian S · visit · Neat Patch')
    setTitle('')
    expect(document.title).toBe('Neat Patch')
  })
})
