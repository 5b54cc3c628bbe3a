import { useConfirm } from 'primevue/useconfirm'

/** One question before something is deleted, which says what goes with it. */
export function useQuestion() {
  const confirm = useConfirm()
  return (header: string, message: string, yes: string, run: () => unknown): void =>
    confirm.require({
      header,
      message,
      acceptProps: { label: yes, severity: 'danger' },
      rejectProps: { label: 'Cancel', severity: 'secondary', variant: 'text' },
      defaultFocus: 'reject',
      accept: () => void run(),
    })
}
