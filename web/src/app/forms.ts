import { z } from 'zod'

// Compiled checks would need a wider content security policy. This must be said before the first schema is made.
z.config({ jitless: true })
