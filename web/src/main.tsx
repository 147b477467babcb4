import '@mantine/core/styles.css'
import '@mantine/dropzone/styles.css'
import '@mantine/notifications/styles.css'
import '@fontsource-variable/figtree'
import './styles.css'
import { MantineProvider } from '@mantine/core'
import { ModalsProvider } from '@mantine/modals'
import { Notifications } from '@mantine/notifications'
import { createRoot } from 'react-dom/client'
import { Provider } from 'react-redux'
import { App } from './app.tsx'
import { makeStore } from './store/store.ts'
import { theme, variables } from './theme.ts'

createRoot(document.getElementById('root')!).render(
  <Provider store={makeStore()}>
    <MantineProvider theme={theme} cssVariablesResolver={variables} defaultColorScheme="auto">
      <ModalsProvider>
        <Notifications position="bottom-right" limit={3} />
        <App />
      </ModalsProvider>
    </MantineProvider>
  </Provider>,
)
