// Calls of the API, typed by its own description.
import createClient from 'openapi-fetch'
import { ref } from 'vue'
import type { components, paths } from './schema'

type Schemas = components['schemas']
export type Account = Schemas['Account']
export type Alerts = Schemas['Alerts']
export type Activity = Schemas['Activity']
export type Card = Schemas['Card']
export type Carried = Pick<Schemas['Carried'], 'notices'> & { pages: CarryingPage[] }
/** A known page with what it carries. */
export type CarryingPage = Schemas['CarryingPage'] & Schemas['CarriedSet']
export type ContactQuery = NonNullable<paths['/api/sites/{site}/contacts']['get']['parameters']['query']>
export type ContactList = Schemas['ContactList']
export type ContactRow = Schemas['ContactRow']
export type Delivery = Schemas['Delivery']
export type ExperimentResults = Schemas['ExperimentResults']
export type NoticeResults = Schemas['NoticeResults']
export type ResultQuery = NonNullable<paths['/api/sites/{site}/results']['get']['parameters']['query']>
export type SiteResults = Schemas['SiteResults']
export type Tally = Schemas['Tally']
export type ReceiverSetup = Schemas['ReceiverSetup']
export type ConsentItem = Schemas['Item']
export type ConsentRoom = Schemas['ConsentRoom']
export type ConsentSetup = Schemas['Setup']
export type BlockCard = Schemas['BlockCard']
export type CodeCheck = Schemas['CodeCheck']
export type Column = Schemas['Column']
export type Part = Schemas['Part']
export type PartWords = Schemas['PartWords']
export type Placement = Schemas['Placement']
export type Row = Schemas['Row']
export type Contrast = Schemas['Contrast']
export type CountReading = Schemas['CountReading']
export type Countdown = Schemas['Countdown']
export type Disclaimer = Schemas['Disclaimer']
export type Difference = Schemas['Difference']
export type DisclaimerCounts = Schemas['DisclaimerCounts']
export type DocumentDetail = Schemas['DocumentDetail']
export type DocumentList = Schemas['DocumentList']
export type DocumentSection = Schemas['Section']
export type Entry = Schemas['Entry']
export type FactChoice = Schemas['FactChoice']
export type FactList = Schemas['FactList']
export type Feed = Schemas['Feed']
export type Finding = Schemas['Finding']
export type GateStep = Schemas['GateStep']
export type Icon = Schemas['Icon']
export type ImageDetail = Schemas['ImageDetail']
export type Mail = Schemas['Mail']
export type LevelRule = Schemas['LevelRule']
export type HistoryLine = Schemas['HistoryLine']
export type Interval = Schemas['Interval']
export type Verdict = Schemas['Verdict']
export type Me = Schemas['Me']
export type Node = Schemas['Node']
export type Notice = Schemas['Notice']
export type NoticeName = Schemas['NoticeName']
export type NewNotice = Schemas['NewNotice']
export type NoticeDetail = Schemas['NoticeDetail']
export type PeopleList = Schemas['PeopleList']
export type Person = Schemas['Person']
export type PhraseList = Schemas['PhraseList']
export type PhraseUse = Schemas['PhraseRow']['use']
export type PlaceRow = Schemas['PlaceRow']
export type PlaceRule = Schemas['PlaceRule']
export type Problem = Schemas['Problem']
export type Purpose = Schemas['Purpose']
export type Question = Schemas['Question']
export type QuestionCard = Schemas['QuestionCard']
export type ReceivedCard = Schemas['ReceivedCard']
export type RunDetail = Schemas['RunDetail']
export type KnownItem = Schemas['KnownItem']
export type RecordCard = Schemas['RecordCard']
export type SessionList = Schemas['SessionList']
export type SessionCard = Schemas['SessionCard']
export type Saved = Schemas['Saved']
export type Site = Schemas['BundleSite']
export type SiteDetail = Schemas['SiteDetail']
export type SpeedDetail = Schemas['SpeedDetail']
export type Survey = Schemas['Survey']
export type Operation = Schemas['Operation']
export type StartingChoice = Schemas['StartingChoice']
export type StartingList = Schemas['StartingList']
export type Styles = Schemas['Styles']
export type TextLook = Schemas['TextLook']
export type ThemeCard = Schemas['ThemeCard']
export type ThemeList = Schemas['ThemeList']
export type Table = Schemas['Table']
export type DetectedItem = Schemas['DetectedItem']
export type Times = Schemas['Times']
export type Trend = Schemas['Trend']
export type Trends = Schemas['Trends']
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

/** Where one looks from: every value is a text, as in an address. */
export type Moment = Schemas['Moment']

/** The calls that take a step and answer with the notice as it then is. */
type StepPath = {
  [P in keyof paths]: paths[P] extends {
    post: {
      requestBody?: { content: { 'application/json': infer B } }
      responses: { 200: { content: { 'application/json': infer D } } }
    }
  }
    ? [B, Schemas['Step'], D] extends [Schemas['Step'], B, NoticeDetail]
      ? P
      : never
    : never
}[keyof paths]
type LastPart<P> = P extends `/api/sites/{site}/notices/{notice}/${infer A}` ? A : never

/** What can be done with a notice at a revision. */
export type Act = LastPart<StepPath>

export const api = {
  signIn: async (email: string, password: string) => {
    const person = await data(client.POST('/api/sign-in', { body: { email, password } }))
    signedOut.value = false
    return person
  },
  signOut: () => data(client.POST('/api/sign-out', {})),
  invitation: (token: string) => data(client.POST('/api/invitation', { body: { token } })),
  join: async (body: Schemas['Join']) => {
    const person = await data(client.POST('/api/join', { body }))
    signedOut.value = false
    return person
  },
  changePassword: (body: Schemas['PasswordChange']) => data(client.POST('/api/me/password', { body })),
  sessions: () => data(client.GET('/api/me/sessions', {})),
  /** Ends one session, or all others than this one if id is empty. */
  endSession: (id: string) => data(client.POST('/api/me/sessions/end', { body: { id } })),
  people: () => data(client.GET('/api/people', {})),
  invite: (body: Person) => data(client.POST('/api/people/invite', { body })),
  changePerson: (body: Person) => data(client.POST('/api/people/change', { body })),
  removePerson: (email: string) => data(client.POST('/api/people/remove', { body: { email } })),
  mailbox: () => data(client.GET('/api/mailbox', {})),
  icons: (find: string) => data(client.GET('/api/icons', { params: { query: { find } } })),
  me: () => data(client.GET('/api/me', {})),
  setClock: (at: string) => data(client.POST('/api/clock', { body: { at } })),
  facts: () => data(client.GET('/api/facts', {})),
  contrast: (background: string, text: string) =>
    data(client.GET('/api/contrast', { params: { query: { background, text } } })),
  newSite: (body: Schemas['NewSite']) => data(client.POST('/api/sites', { body })),
  site: (site: string) => data(client.GET('/api/sites/{site}', { params: { path: { site } } })),
  changeSite: (site: string, body: Schemas['SiteChange']) =>
    data(client.PUT('/api/sites/{site}', { params: { path: { site } }, body })),
  display: (site: string, body: Schemas['DisplaySwitch']) =>
    data(client.POST('/api/sites/{site}/display', { params: { path: { site } }, body })),
  /** Reads the site's pages; `fewer` is said by people who know that it has fewer than before. */
  survey: (site: string, body: Schemas['SurveyAsk']) =>
    data(client.POST('/api/sites/{site}/survey', { params: { path: { site } }, body })),
  surveyState: (site: string) => data(client.GET('/api/sites/{site}/survey', { params: { path: { site } } })),
  stopSurvey: (site: string) => data(client.POST('/api/sites/{site}/survey/stop', { params: { path: { site } } })),
  send: (site: string, email: string) =>
    data(client.POST('/api/sites/{site}/send', { params: { path: { site } }, body: { email } })),
  activity: (site: string, who: string) =>
    data(client.GET('/api/sites/{site}/activity', { params: { path: { site }, query: { who } } })),
  styles: (site: string) => data(client.GET('/api/sites/{site}/styles', { params: { path: { site } } })),
  starting: (site: string) => data(client.GET('/api/sites/{site}/starting', { params: { path: { site } } })),
  themes: (site: string) => data(client.GET('/api/sites/{site}/themes', { params: { path: { site } } })),
  images: (site: string) => data(client.GET('/api/sites/{site}/images', { params: { path: { site } } })),
  addImage: (site: string, body: Schemas['NewImage']) =>
    data(client.POST('/api/sites/{site}/images', { params: { path: { site } }, body })),
  removeImage: (site: string, file: string) =>
    data(client.POST('/api/sites/{site}/images/remove', { params: { path: { site } }, body: { file } })),
  phrases: (site: string, language: string) =>
    data(client.GET('/api/sites/{site}/phrases', { params: { path: { site }, query: { language } } })),
  xliff: (site: string, language: string, only: { notice?: string; document?: string }) =>
    data(client.GET('/api/sites/{site}/xliff', { params: { path: { site }, query: { language, ...only } } })),
  takeXliff: (site: string, body: Schemas['XLIFFFile']) =>
    data(client.POST('/api/sites/{site}/xliff', { params: { path: { site } }, body })),
  pauseAll: (site: string, body: Schemas['PauseAll']) =>
    data(client.POST('/api/sites/{site}/pause', { params: { path: { site } }, body })),
  table: (site: string, query: Moment) =>
    data(client.GET('/api/sites/{site}/table', { params: { path: { site }, query } })),
  alerts: (site: string) => data(client.GET('/api/sites/{site}/alerts', { params: { path: { site } } })),
  giveAlert: (site: string, body: Schemas['GivenAlert']) =>
    data(client.POST('/api/sites/{site}/alerts/give', { params: { path: { site } }, body })),
  approveAlert: (site: string, id: number) =>
    data(client.POST('/api/sites/{site}/alerts/approve', { params: { path: { site } }, body: { id } })),
  refuseAlert: (site: string, id: number) =>
    data(client.POST('/api/sites/{site}/alerts/refuse', { params: { path: { site } }, body: { id } })),
  askFeed: (site: string, feed: string) =>
    data(client.POST('/api/sites/{site}/alerts/ask', { params: { path: { site } }, body: { feed } })),
  newCalendar: (site: string) => data(client.POST('/api/sites/{site}/alerts/calendar', { params: { path: { site } } })),
  sendWeather: (what: string) => data(client.POST('/api/standin/weather', { body: { what } })),
  /** The content of a file that the program writes. */
  file: async (address: string) => {
    let reply: Response
    try {
      reply = await fetch(address)
    } catch {
      throw new CallError()
    }
    if (reply.ok) return reply.blob()
    if (reply.status === 401) signedOut.value = true
    throw new CallError((await reply.json().catch(() => undefined)) as Problem | undefined)
  },
  consent: (site: string) => data(client.GET('/api/sites/{site}/consent', { params: { path: { site } } })),
  inspect: (site: string, accessibility = false) =>
    data(client.POST('/api/sites/{site}/consent/inspect', { params: { path: { site } }, body: { accessibility } })),
  speed: (site: string) => data(client.GET('/api/sites/{site}/speed', { params: { path: { site } } })),
  measureSpeed: (site: string) => data(client.POST('/api/sites/{site}/speed', { params: { path: { site } } })),
  /** An earlier inspection, by when it began. */
  run: (site: string, began: string) =>
    data(client.GET('/api/sites/{site}/consent/run', { params: { path: { site }, query: { began } } })),
  stopInspection: (site: string) => data(client.POST('/api/sites/{site}/consent/stop', { params: { path: { site } } })),
  readInventory: (site: string, text: string) =>
    data(client.POST('/api/sites/{site}/consent/inventory', { params: { path: { site } }, body: { text } })),
  trends: (site: string, query: { from?: string; to?: string; by?: string }) =>
    data(client.GET('/api/sites/{site}/consent/trends', { params: { path: { site }, query } })),
  records: (site: string, query: { id?: string; before?: string }) =>
    data(client.GET('/api/sites/{site}/consent/records', { params: { path: { site }, query } })),
  shown: (site: string, hash: string) =>
    data(client.GET('/api/sites/{site}/consent/shown', { params: { path: { site }, query: { hash } } })),
  verifyRecords: (site: string) =>
    data(client.POST('/api/sites/{site}/consent/verify', { params: { path: { site } } })),
  documents: (site: string) => data(client.GET('/api/sites/{site}/documents', { params: { path: { site } } })),
  newDocument: (site: string, body: Schemas['NewDocument']) =>
    data(client.POST('/api/sites/{site}/documents', { params: { path: { site } }, body })),
  document: (site: string, document: string, language: string) =>
    data(
      client.GET('/api/sites/{site}/documents/{document}', {
        params: { path: { site, document }, query: { language } },
      }),
    ),
  changeDocument: (site: string, document: string, body: Schemas['DocumentChange']) =>
    data(client.PUT('/api/sites/{site}/documents/{document}', { params: { path: { site, document } }, body })),
  publishDocument: (site: string, document: string, body: Schemas['DocumentPublish']) =>
    data(client.POST('/api/sites/{site}/documents/{document}/publish', { params: { path: { site, document } }, body })),
  linkDocument: (site: string, document: string, notice: string) =>
    data(
      client.POST('/api/sites/{site}/documents/{document}/link', {
        params: { path: { site, document } },
        body: { notice },
      }),
    ),
  deleteDocument: (site: string, document: string) =>
    data(client.POST('/api/sites/{site}/documents/{document}/delete', { params: { path: { site, document } } })),
  documentFile: (site: string, document: string, as: 'html' | 'markdown' | 'text', language: string) =>
    data(
      client.GET('/api/sites/{site}/documents/{document}/file', {
        params: { path: { site, document }, query: { as, language } },
      }),
    ),
  results: (site: string, query: ResultQuery) =>
    data(client.GET('/api/sites/{site}/results', { params: { path: { site }, query } })),
  noticeResults: (site: string, notice: string, query: ResultQuery) =>
    data(client.GET('/api/sites/{site}/results/{notice}', { params: { path: { site, notice }, query } })),
  contacts: (site: string, query: ContactQuery) =>
    data(client.GET('/api/sites/{site}/contacts', { params: { path: { site }, query } })),
  eraseContacts: (site: string, ids: string[]) =>
    data(client.POST('/api/sites/{site}/contacts/erase', { params: { path: { site } }, body: { ids } })),
  retryDelivery: (site: string, id: number) =>
    data(client.POST('/api/sites/{site}/contacts/retry', { params: { path: { site } }, body: { id } })),
  passing: (site: string) => data(client.GET('/api/sites/{site}/contacts/passing', { params: { path: { site } } })),
  acknowledgements: (site: string) =>
    data(client.GET('/api/sites/{site}/acknowledgements', { params: { path: { site } } })),
  badVendor: (on: boolean) => data(client.POST('/api/standin/vendor', { body: { on } })),
  view: (site: string, query: Moment & { find?: string; most?: string }) =>
    data(client.GET('/api/sites/{site}/view', { params: { path: { site }, query } })),
  checkCode: (body: Schemas['PageCode']) => data(client.POST('/api/code', { body })),
  blocks: (site: string, query: Moment) =>
    data(client.GET('/api/sites/{site}/blocks', { params: { path: { site }, query } })),
  /** Takes a notice off a page, puts it on one, or puts its pages back. */
  place: (site: string, notice: string, body: Schemas['Placing']) =>
    data(client.POST('/api/sites/{site}/notices/{notice}/place', { params: { path: { site, notice } }, body })),
  names: (site: string, find: string) =>
    data(client.GET('/api/sites/{site}/names', { params: { path: { site }, query: { find } } })),
  /** What each known page carries; what many carry alike comes once. */
  carried: async (site: string, query: Moment): Promise<Carried> => {
    const { pages, sets, notices } = await data(
      client.GET('/api/sites/{site}/carried', { params: { path: { site }, query } }),
    )
    return { pages: pages.map((p) => ({ ...p, ...sets[p.set]! })), notices }
  },
  newNotice: (site: string, body: Schemas['NewNotice']) =>
    data(client.POST('/api/sites/{site}/notices', { params: { path: { site } }, body })),
  notice: (site: string, notice: string, query: Moment) =>
    data(client.GET('/api/sites/{site}/notices/{notice}', { params: { path: { site, notice }, query } })),
  changeNotice: (site: string, notice: string, query: Moment, body: Schemas['NoticeChange']) =>
    data(
      client.PUT('/api/sites/{site}/notices/{notice}', {
        params: { path: { site, notice }, query },
        body,
      }),
    ),
  history: (site: string, notice: string) =>
    data(client.GET('/api/sites/{site}/notices/{notice}/history', { params: { path: { site, notice } } })),
  plain: (site: string, notice: string, language: string) =>
    data(
      client.GET('/api/sites/{site}/notices/{notice}/html', {
        params: { path: { site, notice }, query: { language } },
      }),
    ),
  previewLink: (site: string, notice: string, body: Moment) =>
    data(client.POST('/api/sites/{site}/notices/{notice}/preview', { params: { path: { site, notice } }, body })),
  translate: (site: string, notice: string, query: Moment, body: Schemas['TranslateAsk']) =>
    data(
      client.POST('/api/sites/{site}/notices/{notice}/translate', {
        params: { path: { site, notice }, query },
        body,
      }),
    ),
  endAt: (site: string, notice: string, body: Schemas['EndAt']) =>
    data(client.POST('/api/sites/{site}/notices/{notice}/end', { params: { path: { site, notice } }, body })),
  act: (site: string, notice: string, act: Act, query: Moment, body: Schemas['Step']) =>
    data(
      client.POST(`/api/sites/{site}/notices/{notice}/${act}`, {
        params: { path: { site, notice }, query },
        body,
      }),
    ),
}

/** The gate that keeps a notice from showing, or the one that it waits at. */
export function blocking(account: Account) {
  return account.steps.find((s) => !s.passed && !s.waits) ?? account.steps.find((s) => s.waits)
}
