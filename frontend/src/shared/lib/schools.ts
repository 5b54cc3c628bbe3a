import type { Schools } from '@/api/client'

export interface Side {
  value: string | boolean
  label: string
  reason: string
}

export interface Point {
  key: Exclude<keyof Schools, 'contact_order'>
  question: string
  usual: string | boolean
  sides: readonly Side[]
}

/** Points on which people differ, with the reasons of each side; `usual` is what we take unasked. */
export const POINTS: readonly Point[] = [
  {
    key: 'act_on',
    question: 'Act on a spot',
    usual: 'work_affected',
    sides: [
      {
        value: 'work_affected',
        label: 'When it shows in your work',
        reason: 'Every step carries some risk; dust always comes back.',
      },
      {
        value: 'visible',
        label: 'When it shows at all',
        reason: 'A clean start is easier to keep watch over.',
      },
    ],
  },
  {
    key: 'check',
    question: 'When to clean',
    usual: 'evidence',
    sides: [
      {
        value: 'evidence',
        label: 'Evidence',
        reason: 'Look by the calendar, touch only what a frame shows.',
      },
      {
        value: 'calendar_service',
        label: 'A yearly service',
        reason: 'Somebody else answers for it, whether dirty or not.',
      },
    ],
  },
  {
    key: 'contact_by',
    question: 'Who touches',
    usual: '',
    sides: [
      { value: '', label: 'By experience', reason: 'In the first times a service, later you.' },
      { value: 'self', label: 'You', reason: 'No days without the body.' },
      {
        value: 'send_out',
        label: 'A service',
        reason: 'It carries the risk, and keeps the warranty whole.',
      },
    ],
  },
  {
    key: 'air',
    question: 'Air',
    usual: 'soft_first',
    sides: [
      {
        value: 'soft_first',
        label: 'Soft first',
        reason: 'Loose grains leave without being driven in; stronger if the retest fails.',
      },
      { value: 'strong', label: 'Strong at once', reason: 'One turn instead of two.' },
      {
        value: 'skip',
        label: 'Left out',
        reason: 'Some hold that a blower brings more than it takes. Grit is blown off all the same.',
      },
    ],
  },
  {
    key: 'brush',
    question: 'Brush',
    usual: 'charged',
    sides: [
      {
        value: 'charged',
        label: 'Only a charged sensor brush',
        reason: 'If one is owned: the lightest touch there is.',
      },
      {
        value: 'clean_lens_brush',
        label: 'A clean, new lens brush too',
        reason: 'Soft, and always to hand. It must never have met a lens.',
      },
      {
        value: 'never',
        label: 'Never',
        reason: 'Hairs shed, and carry grease from anything they met before.',
      },
    ],
  },
  {
    key: 'gas_can',
    question: 'Gas can',
    usual: 'never',
    sides: [
      { value: 'never', label: 'Never', reason: 'Spray leaves residue and freezes what it hits.' },
      {
        value: 'allowed',
        label: 'Upright, purged, brief',
        reason: 'Strong, and always to hand. The risk is yours.',
      },
    ],
  },
  {
    key: 'lift_area',
    question: 'Where to lift',
    usual: 'spots',
    sides: [
      { value: 'spots', label: 'Only marked spots', reason: 'Fewer touches, fewer patches.' },
      { value: 'whole', label: 'The whole sensor', reason: 'Takes what no frame shows yet.' },
    ],
  },
  {
    key: 'stroke',
    question: 'Swab strokes',
    usual: 'same_way',
    sides: [
      { value: 'same_way', label: 'Same way twice, clean face second', reason: 'Brings nothing back.' },
      {
        value: 'return_other_face',
        label: 'There, and back on the other face',
        reason: 'Ends where the hand is.',
      },
      { value: 'across_and_back', label: 'Across and back', reason: 'One face, done before it dries.' },
      { value: 'circles', label: 'Circles', reason: 'Works on one stubborn place.' },
    ],
  },
  {
    key: 'swab_width',
    question: 'Swab width',
    usual: 'matched',
    sides: [
      { value: 'matched', label: 'As the sensor is high', reason: 'No seam between lanes.' },
      {
        value: 'narrower_ok',
        label: 'Narrower will do',
        reason: 'Easier to hold level; lanes must overlap.',
      },
    ],
  },
  {
    key: 'edges_by_face',
    question: 'Narrow swab',
    usual: false,
    sides: [
      { value: false, label: 'A fresh swab for each lane', reason: 'Every place meets two faces.' },
      {
        value: true,
        label: 'One swab, a face for each edge',
        reason: 'The first face takes the upper edge, the other the lower one.',
      },
    ],
  },
  {
    key: 'pressure',
    question: 'Pressure',
    usual: 'barely',
    sides: [
      {
        value: 'barely',
        label: 'Barely touching',
        reason: 'The tip stays straight, and squeezes nothing out.',
      },
      { value: 'pencil', label: 'With a pencil’s weight', reason: 'One knows how that feels.' },
      {
        value: 'moderate',
        label: 'With moderate pressure',
        reason: 'The whole edge lies on. A floating sensor is barely touched all the same.',
      },
    ],
  },
  {
    key: 'faces_wetted',
    question: 'Drops',
    usual: 'one',
    sides: [
      { value: 'one', label: 'On one edge', reason: 'The dry face follows and takes up what is left.' },
      { value: 'both', label: 'Shared by both faces', reason: 'The second sweep dissolves once more.' },
    ],
  },
  {
    key: 'second_swab_dry',
    question: 'Dry follow-up',
    usual: false,
    sides: [
      { value: false, label: 'Only with a dry swab', reason: 'It was made for it.' },
      { value: true, label: 'A second wet swab, left dry', reason: 'Of the same pack, fresh and unwetted.' },
    ],
  },
  {
    key: 'pad_on_finger',
    question: 'Pad over a fingertip',
    usual: false,
    sides: [
      { value: false, label: 'No, swabs', reason: 'A swab’s edge reaches the corners.' },
      {
        value: true,
        label: 'Yes, where pads are owned',
        reason: 'First dry, with one drop only where that fails; then dry pads at once.',
      },
    ],
  },
  {
    key: 'fluid',
    question: 'Fluid',
    usual: 'by_stain',
    sides: [
      {
        value: 'by_stain',
        label: 'By the stain',
        reason: 'Oil wants what dissolves oil, water marks want mild.',
      },
      { value: 'alcohol_free', label: 'Without alcohol', reason: 'Where the coating asks for it.' },
      { value: 'kit_only', label: 'Only the kit’s own', reason: 'Swab and fluid were tried together.' },
    ],
  },
  {
    key: 'damp_air',
    question: 'Damp air',
    usual: 'dry_work_only',
    sides: [
      {
        value: 'dry_work_only',
        label: 'Fine for dry work',
        reason: 'It lays the dust in the room. Fluid waits for dry air.',
      },
      { value: 'never', label: 'Avoided', reason: 'Nothing is opened while the air is damp.' },
    ],
  },
  {
    key: 'files_first',
    question: 'Pictures waiting',
    usual: false,
    sides: [
      { value: false, label: 'The camera', reason: 'The next pictures should be clean.' },
      { value: true, label: 'The pictures', reason: 'Deliver first; one map patches them all.' },
    ],
  },
]

export const ORDERS: readonly { label: string; reason: string; order: Schools['contact_order'] }[] = [
  {
    label: 'Lift, then dry, then wet',
    reason: 'Lifting drags no grit; wet still comes first for oil and marks.',
    order: null,
  },
  {
    label: 'Dry swab, then wet',
    reason: 'One light sweep takes most of what is dry.',
    order: ['dry_swab', 'wet_swab'],
  },
  { label: 'Straight to wet', reason: 'One pass instead of three.', order: ['wet_swab'] },
  { label: 'Dry, wet, dry', reason: 'The last dry face takes the drying mark.', order: ['dry_wet_dry'] },
]
