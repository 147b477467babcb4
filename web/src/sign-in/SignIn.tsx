import { Anchor, Button, PasswordInput, Stack, Text, TextInput } from '@mantine/core'
import { useState, type FormEvent } from 'react'
import { useLocation, useNavigate } from 'react-router'
import { sentenceOf, useEnterDemoMutation, useSignInMutation, useSignUpMutation, useWelcomeQuery } from '../store/api.ts'
import signInCss from './sign-in.module.css'
import partsCss from '../parts/parts.module.css'

/** Sign in, sign up, or (in demo mode) one click into the demo studio. */
export function SignIn() {
  const { data: welcome } = useWelcomeQuery()
  const [signIn, inState] = useSignInMutation()
  const [signUp, upState] = useSignUpMutation()
  const [enterDemo, demoState] = useEnterDemoMutation()
  const [fresh, setFresh] = useState(false)
  const [trouble, setTrouble] = useState<string | null>(null)
  const go = useNavigate()
  const from = (useLocation().state as { from?: string } | null)?.from ?? '/'
  const entered = () => void go(from, { replace: true })
  const failed = (error: unknown) => setTrouble(sentenceOf(error))

  const submit = (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault()
    setTrouble(null)
    const data = new FormData(e.currentTarget)
    const text = (name: string) => String(data.get(name) ?? '')
    const account = { email: text('email'), password: text('password') }
    const sent = fresh ? signUp({ ...account, name: text('name') }) : signIn(account)
    void sent.unwrap().then(entered, failed)
  }

  return (
    <main className={signInCss.entry}>
      <div className={signInCss.form}>
        <div>
          <div className={partsCss.mark} style={{ fontSize: 19, marginBottom: 14 }}>
            <img src="/favicon.svg" alt="" /> Nimble Quill
          </div>
          <Text c="var(--faint)" maw={420}>
            Photographs become drawings, paintings and prints, by steps that stay open: every one can be changed, moved or taken out again.
          </Text>
        </div>
        {welcome?.demo && (
          <div>
            <Button size="md" loading={demoState.isLoading} onClick={() => void enterDemo().unwrap().then(entered, failed)}>
              Enter the demo studio
            </Button>
            <Text size="sm" c="var(--faint)" mt={6}>
              Brackwater Lantern Week: six photographs and a few begun artworks.
            </Text>
          </div>
        )}
        <form onSubmit={submit} aria-label={fresh ? 'Sign up' : 'Sign in'}>
          <Stack gap={10} maw={340}>
            <Text fw={600}>{fresh ? 'Open an account' : welcome?.demo ? 'Or sign in' : 'Sign in'}</Text>
            {fresh && <TextInput label="Name" name="name" autoComplete="name" required />}
            <TextInput label="E-mail" name="email" type="email" autoComplete="email" required />
            <PasswordInput
              label="Password"
              name="password"
              autoComplete={fresh ? 'new-password' : 'current-password'}
              required
              {...(fresh ? { description: 'At least 10 characters', minLength: 10 } : {})}
            />
            {trouble && (
              <Text role="alert" size="sm" c="var(--loss)">
                {trouble}
              </Text>
            )}
            <Button type="submit" size="sm" variant={welcome?.demo ? 'default' : 'filled'} loading={inState.isLoading || upState.isLoading}>
              {fresh ? 'Sign up' : 'Sign in'}
            </Button>
            <Anchor component="button" type="button" size="sm" ta="left" onClick={() => setFresh(!fresh)}>
              {fresh ? 'I have an account already' : 'Open an account'}
            </Anchor>
          </Stack>
        </form>
      </div>
      <div className={signInCss.plate} aria-hidden="true">
        <img src="/entry-photo.webp" alt="" />
        <img src="/entry-drawing.webp" alt="" className={signInCss.over} />
        <i />
      </div>
    </main>
  )
}
