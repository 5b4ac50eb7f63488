// Calls of the API, typed by its own description.
import createClient from 'openapi-fetch'
import { ref } from 'vue'
import type { components, paths } from './schema'

type Schemas = components['schemas']
export type Account = Schemas['Account']
export type Card = Schemas['Card']
export type CarryingPage = Schemas['CarryingPage']
export type Contrast = Schemas['Contrast']
export type Entry = Schemas['Entry']
export type FactChoice = Schemas['FactChoice']
export type FactList = Schemas['FactList']
export type Finding = Schemas['Finding']
export type GateStep = Schemas['GateStep']
export type HistoryLine = Schemas['HistoryLine']
export type Interval = Schemas['Interval']
export type Verdict = Schemas['Verdict']
export type Me = Schemas['Me']
export type Node = Schemas['Node']
export type Notice = Schemas['Notice']
export type NoticeDetail = Schemas['NoticeDetail']
export type Problem = Schemas['Problem']
export type Saved = Schemas['Saved']
export type Site = Schemas['BundleSite']
export type SiteDetail = Schemas['SiteDetail']
export type Operation = Schemas['Operation']
export type Times = Schemas['Times']
export type View = Schemas['View']
export type Window = Schemas['Window']
export type Wording = Schemas['Wording']
export type Word = Schemas['Word']

const client = createClient<paths>({})

/** The session has ended or never began. */
export const signedOut = ref(false)

/** A call that did not work. `problem` says why; without one the server was not reached. */
export class CallError extends Error {
  constructor(readonly problem?: Problem) {
    super(problem?.detail ?? 'The connection is lost.')
  }
}

interface Reply<T> {
  data?: T
  error?: unknown
  response: Response
}

/** Returns what a call brought, or throws a CallError. */
async function data<T>(call: Promise<Reply<T>>): Promise<T> {
  let reply: Reply<T>
  try {
    reply = await call
  } catch {
    throw new CallError()
  }
  if (reply.error !== undefined || !reply.response.ok) {
    if (reply.response.status === 401) signedOut.value = true
    throw new CallError(reply.error as Problem)
  }
  return reply.data as T
}

export interface Moment {
  page?: string
  at?: string
  zone?: string
  /** A JSON object of facts. */
  visitor?: string
  from?: string
  until?: string
}

export type Act = 'publish' | 'pause' | 'resume' | 'unpublish' | 'discard' | 'restore' | 'delete' | 'undelete'

export const api = {
  signIn: async (email: string, password: string) => {
    const person = await data(client.POST('/api/sign-in', { body: { email, password } }))
    signedOut.value = false
    return person
  },
  signOut: () => data(client.POST('/api/sign-out', {})),
  me: () => data(client.GET('/api/me', {})),
  setClock: (at: string) => data(client.POST('/api/clock', { body: { at } })),
  facts: () => data(client.GET('/api/facts', {})),
  contrast: (background: string, text: string) => data(client.GET('/api/contrast', { params: { query: { background, text } } })),
  newSite: (body: Schemas['NewSite']) => data(client.POST('/api/sites', { body })),
  site: (site: string) => data(client.GET('/api/sites/{site}', { params: { path: { site } } })),
  changeSite: (site: string, body: Schemas['SiteChange']) => data(client.PUT('/api/sites/{site}', { params: { path: { site } }, body })),
  display: (site: string, body: Schemas['DisplaySwitch']) =>
    data(client.POST('/api/sites/{site}/display', { params: { path: { site } }, body })),
  survey: (site: string) => data(client.POST('/api/sites/{site}/survey', { params: { path: { site } } })),
  view: (site: string, query: Moment) => data(client.GET('/api/sites/{site}/view', { params: { path: { site }, query } })),
  carried: (site: string, query: Moment) => data(client.GET('/api/sites/{site}/carried', { params: { path: { site }, query } })),
  newNotice: (site: string, body: Schemas['NewNotice']) =>
    data(client.POST('/api/sites/{site}/notices', { params: { path: { site } }, body })),
  notice: (site: string, notice: string, query: Moment) =>
    data(client.GET('/api/sites/{site}/notices/{notice}', { params: { path: { site, notice }, query } })),
  changeNotice: (site: string, notice: string, query: Moment, body: Schemas['NoticeChange']) =>
    data(client.PUT('/api/sites/{site}/notices/{notice}', { params: { path: { site, notice }, query: query as never }, body })),
  history: (site: string, notice: string) =>
    data(client.GET('/api/sites/{site}/notices/{notice}/history', { params: { path: { site, notice } } })),
  plain: (site: string, notice: string, language: string) =>
    data(client.GET('/api/sites/{site}/notices/{notice}/html', { params: { path: { site, notice }, query: { language } } })),
  previewLink: (site: string, notice: string, body: Moment) =>
    data(client.POST('/api/sites/{site}/notices/{notice}/preview', { params: { path: { site, notice } }, body })),
  act: (site: string, notice: string, act: Act, query: Moment, body: Schemas['Step']) =>
    data(client.POST(`/api/sites/{site}/notices/{notice}/${act}`, { params: { path: { site, notice }, query: query as never }, body })),
}

/** The gate that keeps a notice from showing, or the one that it waits at. */
export function blocking(account: Account) {
  return account.steps.find((s) => !s.passed && !s.waits) ?? account.steps.find((s) => s.waits)
}
