import { mount } from '@vue/test-utils'
import PrimeVue from 'primevue/config'
import ConfirmationService from 'primevue/confirmationservice'
import { describe, expect, it, vi } from 'vitest'
import type { FrameListing, Spot } from '@/api/client'
import { markOf } from '@/shared/lib/marks'
import { freshCache } from '@/app/stage'
import ApertureBar from './ApertureBar.vue'
import ApertureEntry from '@/shared/components/ApertureEntry.vue'
import FrameCard from './FrameCard.vue'
import DropPlace from '@/shared/components/DropPlace.vue'
import KindSign from '@/shared/components/KindSign.vue'
import SensorForm from './SensorForm.vue'
import SpotFilters from './SpotFilters.vue'
import SpotMark from '@/shared/components/SpotMark.vue'
import UploadRow from '@/shared/components/UploadRow.vue'

const global = {
  get plugins() {
    return [PrimeVue, freshCache()]
  },
}

function spot(values: Partial<Spot>): Spot {
  return {
    id: 's1',
    x_px: 100,
    y_px: 50,
    x_mm: null,
    y_mm: null,
    zone: 'centre',
    kind: 'speck',
    site: 'sensor',
    snr: 40,
    depth: 0.1,
    outer_px: 20,
    outer_um: null,
    length_um: null,
    particle_um: null,
    height_mm: null,
    shows_from_f: 8,
    seen_in: 1,
    ...values,
  } as Spot
}

describe('FrameCard', () => {
  const known = { id: 3, name: 'a.jpg', original: 'whole', count: 4, relevant: 2, note: '', fit: true }
  const card = (frame: object) =>
    mount(FrameCard, {
      props: { frame: { ...known, ...frame } as unknown as FrameListing, worksAt: 16 },
      global: {
        plugins: [...global.plugins, ConfirmationService],
        stubs: { RouterLink: { template: '<a class="card"><slot /></a>' } },
      },
    })
  it('is one card, measured or not', () => {
    const ready = card({ ready: true })
    expect(ready.findAll('.card')).toHaveLength(1)
    expect(ready.text()).not.toContain('Being measured')
    const waits = card({ ready: false, relevant: null })
    expect(waits.findAll('.card')).toHaveLength(1)
    expect(waits.text()).toContain('Being measured')
  })
  it('asks for an aperture beneath the card', () => {
    const dark = card({ ready: true, relevant: null })
    expect(dark.findAll('.card')).toHaveLength(1)
    expect(dark.text()).toContain('no aperture recorded')
    expect(dark.findComponent(ApertureEntry).exists()).toBe(true)
  })
})

describe('UploadRow', () => {
  const upload = {
    key: 1,
    name: 'a.jpg',
    state: 'sending' as const,
    progress: 0.2,
    step: 'Sending',
    error: '',
    frameId: null,
    goal: {},
    cancel: vi.fn(),
    retry: vi.fn(),
  }
  it('shows progress and can be cancelled', async () => {
    const row = mount(UploadRow, { props: { upload }, global })
    expect(row.text()).toContain('Sending')
    await row.find('button').trigger('click')
    expect(upload.cancel).toHaveBeenCalledOnce()
  })
  it('says what went wrong, as an alert', async () => {
    const row = mount(UploadRow, {
      props: { upload: { ...upload, state: 'failed', error: 'It is cut short.' } },
      global,
    })
    expect(row.attributes('role')).toBe('alert')
    expect(row.text()).toContain('It is cut short.')
    const [again, away] = row.findAll('button')
    await again?.trigger('click')
    expect(upload.retry).toHaveBeenCalledOnce()
    await away?.trigger('click')
    expect(row.emitted('dismiss')).toHaveLength(1)
  })
  it('keeps an acknowledged frame until it is removed', async () => {
    const cancel = vi.fn()
    const row = mount(UploadRow, {
      props: { upload: { ...upload, state: 'failed', error: 'No.', frameId: 4, cancel } },
      global,
    })
    const buttons = row.findAll('button')
    expect(buttons.map((b) => b.text())).toEqual(['Try again', 'Remove'])
    await buttons[1]?.trigger('click')
    expect(cancel).toHaveBeenCalledOnce()
    expect(row.emitted('dismiss')).toBeUndefined()
  })
})

describe('DropPlace', () => {
  it('gives the chosen files, and nothing where none was chosen', async () => {
    const place = mount(DropPlace, { global })
    const input = place.find('input[type=file]')
    await input.trigger('change')
    expect(place.emitted('files')).toBeUndefined()
    const file = new File(['x'], 'a.jpg')
    Object.defineProperty(input.element, 'files', { value: [file] })
    await input.trigger('change')
    expect(place.emitted('files')).toEqual([[[file]]])
  })
})

describe('SpotFilters', () => {
  it('offers the kinds that are there and toggles them', async () => {
    const filters = mount(SpotFilters, {
      props: {
        spots: [spot({}), spot({ id: 's2', kind: 'fibre' })],
        modelValue: { kinds: [], showsAt: null },
      },
      global,
    })
    const buttons = filters.findAll('.kinds button')
    expect(buttons.map((b) => b.text())).toEqual(['Speck 1', 'Fibre 1'])
    await buttons[1]?.trigger('click')
    expect(filters.emitted('update:modelValue')).toEqual([[{ kinds: ['fibre'], showsAt: null }]])
  })
})

describe('SensorForm', () => {
  it('takes a common size or its own, and nothing half', async () => {
    const form = mount(SensorForm, { props: { size: null }, global })
    await form.find('form').trigger('submit')
    expect(form.emitted('sensor')).toBeUndefined()
    await form.findAll('.common button')[1]?.trigger('click')
    expect(form.emitted('sensor')).toEqual([[36, 24]])
  })
})

describe('ApertureBar', () => {
  it('is absent without an aperture', () => {
    expect(
      mount(ApertureBar, {
        props: { taken: null, noticed: null, total: 0, modelValue: null },
        global,
      }).text(),
    ).toBe('')
  })
  it('tells the count at another aperture and leads back', async () => {
    const bar = mount(ApertureBar, { props: { taken: 22, noticed: 3, total: 9, modelValue: 8 }, global })
    expect(bar.text()).toContain('f/8')
    expect(bar.text()).toContain('3 of 9')
    await bar.find('button').trigger('click')
    expect(bar.emitted('update:modelValue')).toEqual([[null]])
  })
})

describe('shapes', () => {
  it('draws each kind by its own shape', () => {
    const drawn = (['speck', 'fibre', 'droplet', 'residue', 'soft'] as const).map((kind) =>
      mount(KindSign, { props: { kind } }).html(),
    )
    expect(new Set(drawn).size).toBe(5)
  })
  it('marks the chosen spot and tells when it is chosen', async () => {
    const mark = mount(SpotMark, {
      props: { mark: markOf(spot({ kind: 'droplet' }), 1), selected: true, label: 'Droplet', reached: true },
    })
    expect(mark.classes()).toContain('selected')
    expect(mark.findAll('circle')).toHaveLength(3)
    await mark.trigger('click')
    expect(mark.emitted('choose')).toHaveLength(1)
  })
})
