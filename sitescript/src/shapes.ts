// What the server answers to a page view. Written by `make generate`.
import type { components } from '../../web/src/api/schema'

/** An Answer says what shows on a page view. */
export interface Answer {
  at: number
  /** When the answer runs out; null for never. */
  until: number | null
  show: Bar[]
  /** What shows once its remainder holds. */
  waiting?: Waiting[]
  /** The moment that each notice's countdown is about, by id. */
  ends?: Record<string, number>
  /** What holds of the visitor's consent, where the site asks for it. */
  consent?: ConsentState
  /** What takes answers to disclaimers needs, where the page carries one. */
  disclaimer?: DisclaimerState
  /** What it takes to tell what became of the notices. */
  results?: CountState
  /** How many notices each slot holds; with waiting. */
  capacity?: Record<string, number>
  /** The facts to send from now on, as version:names; absent where they are known. */
  wants?: string
  /** When the preview ends, if this is one. */
  preview?: number
}

/** A CountState is what a page needs to tell what became of its notices. */
export interface CountState {
  mark: string
  /** Path of the page if it is known, else "". */
  page: string
  /**
   * What the page carries, as it is counted: id, version, wording and variant, with blanks between. Those that visitors
   * are held out of have the variant held-out.
   */
  shown: string[]
  /** Of those held out, by their place in Shown: what has to come true before they would have shown. */
  held?: Record<string, components['schemas']['Node']>
  /** Where those are that are compared and may lie below what visitors see, by their place in Shown. */
  places?: Record<string, Place>
  /** What helps to count may be kept by the browser (rule E8). */
  keep?: boolean
  /** A draw is to be made, and the decision asked for again with it (rule E4). */
  draw?: boolean
  /** Ids of notices whose goal this page is. */
  reached?: string[]
  /** Properties of events that texts and audiences want, as NAME.PROPERTY. */
  properties?: string[]
  /** Of the site's published notices that have one, by id. */
  goals?: Record<string, Goal>
}

/** A Goal is the goal of a notice as the site script watches for it. */
export interface Goal {
  /** How long after meeting the notice reaching it counts, ms. */
  within: number
  /** The name of an event, and the least value that it has to have. */
  event?: string
  least?: number
  /** Its form is sent, or its link followed. */
  form?: boolean
  link?: boolean
  /** That it was reached is remembered (rule M1). */
  keep?: boolean
}

/** A Place is where in the page a notice lies that may be below what visitors see. */
export interface Place {
  /** Where it stands; at the end of the page if there is none. */
  spots?: components['schemas']['Spot'][]
  /** Which of them are for this page, in the order in which they are tried; all if absent. */
  at?: number[]
}

/** DisclaimerState is what a page that carries disclaimers needs to take answers. */
export interface DisclaimerState {
  words: DisclaimerWords
  /** What the page's disclaimers are about, by the names that answers are remembered under. */
  titles: Record<string, string>
  /** Lets this page tell what was answered, for a while. */
  mark: string
}

/** DisclaimerWords are what the program itself says to visitors once they have answered. */
export interface DisclaimerWords {
  done: string
  receipt: string
  erase: string
  erased: string
  close: string
}

/** ConsentState is what holds of a visitor's consent. */
export interface ConsentState {
  rule: 'opt-in' | 'opt-out' | 'notice' | 'nothing'
  granted: string[]
  answered: boolean
  /** The browser's privacy signal counts here. */
  signal?: boolean
  /** The fingerprint of what the notice that asks shows here. */
  hash: string
  /** Lets this page tell what was answered, for a while. */
  mark: string
  /** Encoded when the site was compiled; only its tag where the page has said that it has that. */
  part: ConsentPart
}

/** ConsentPart is what the consent part of the site script gets beside the decision. */
export interface ConsentPart {
  asked: string[]
  /** Marks of all that is asked about. */
  of: string
  /** What to remove where its purpose is not agreed to: kind, name, host, purpose. */
  clear?: [string, string, string, string][]
  /** Names of purposes, by id. */
  names: Record<string, string>
  /** Purposes that a privacy signal refuses. */
  signal?: string[]
  /**
   * Where the control that asks again stands; whether it is a tab at the edge; its field and words, where they are not
   * black on white.
   */
  again: string
  tab?: boolean
  colours?: string[]
  /** What else is an answer where the rule is not opt-in: closing, going-on. */
  also?: string[]
  words: ConsentWords
  /**
   * What the guard in the page holds back; and whether what has no purpose yet is held where something has to be agreed
   * to first.
   */
  holds: Holds
  unsorted?: boolean
  /** Of all of this. */
  tag: string
}

/**
 * Holds are what a browser needs to tell what is to be held back (rules H1 and H3): nothing of it is about a person,
 * and equal sites have equal ones.
 */
export interface Holds {
  /**
   * Kind, regular expression and purpose of what the inventory lists, the most exact first. The expression is one of
   * ECMAScript and of Go alike; it is of names, or of host, path and query of an address, as count.example/c.js?n=1.
   */
  rows: [string, string, string][]
  /** The site's own hosts, in lower case. */
  own: string[]
}

/** ConsentWords are what the program itself says where something is held back. */
export interface ConsentWords {
  again: string
  missing: string
  allow: string
}

/** Waiting is a notice that shows once its remainder holds. */
export interface Waiting extends Bar {
  remainder: components['schemas']['Node']
}

/** A Bar is a notice, in whatever slot, as the site script places it. */
export interface Bar {
  id: string
  slot: 'top' | 'bottom' | 'corner-start' | 'corner-end' | 'centre' | 'cover' | 'title' | 'inline' | 'code'
  position: 'sticking' | 'scrolling'
  /**
   * Where in the page it stands, in the slot inline, in the order in which they are tried; without the pages that each
   * is for.
   */
  spots?: components['schemas']['Spot'][]
  html: string
  /** What is the notice's own; the style that all share, bar.css, is built into the site script. */
  css: string
  /** What runs its countdown. */
  count?: Count
  /** It has a longer message to open, or can be folded away: the part of the script for that is loaded. */
  ways?: boolean
  /** What stands on the tab that opens it again once it was folded away, and what is read out of that. */
  fold?: string[]
  /** Of a notice of kind code: what is put into the page, and nothing else of it. */
  code?: Code
  /** What takes its form. */
  form?: Form
  /** What else loads a part of the script: video, hours. */
  uses?: string[]
  /** Of the zone that its opening hours are in. */
  zone?: string
  /** How it goes, other than by its buttons. */
  out?: Exit
  /** How dark the page behind it is, %, where it is not as usual. */
  behind?: number
  /** A sound that it comes with. */
  sound?: 'bell' | 'knock'
  /** Its paragraphs are titles that are shown in the tab of a visitor who is elsewhere. */
  tab?: Tab
  /** Its place in the order of rule D1, among all notices of the site. */
  order: number
  /** The acts to be remembered beside closing, shown and clicked: its memory or an audience asks. */
  keep?: string[]
  /** Of a notice that asks for consent: a fingerprint of exactly what it shows. */
  hash?: string
  /** Of a disclaimer that has to be answered. */
  disclaims?: Disclaims
  /** Of all of this. */
  tag: string
  /** Which of its spots are for this page, in the order in which they are tried; all if absent. */
  at?: number[]
}

/** Disclaims is what the site script needs to take an answer to a disclaimer, and to tell of it. */
export interface Disclaims {
  /** A fingerprint of exactly what is shown: SHA-256 of words, document and style, in hex. */
  hash: string
  ask: string
  /** Under which name it is remembered, and which version, or which text of its own, it is of. */
  as: string
  version?: number
  of?: string
  /** Where those are led who say no; "" if nowhere. */
  else?: string
}

/**
 * A Tab is how titles are shown in turn while the visitor is in another tab: each paragraph of the notice's message is
 * one.
 */
export interface Tab {
  first: number
  gap: number
  /** Address of an icon in place of the page's own. */
  icon?: string
}

/** An Exit is how a notice goes, other than by its buttons. */
export interface Exit {
  /** A press outside closes it. */
  outside?: boolean
  /** It closes by itself after so long without anything done with it, ms; not if 0. */
  after?: number
  /** How it moves as it goes. */
  motion?: 'fade' | 'slide'
}

/** A Form is what the site script needs to take what is filled in. */
export interface Form {
  /** A fingerprint of exactly what is shown: SHA-256 of words and style, in hex. */
  hash: string
  /** What is said of a field that is wrong, by form.Flaw; while it is sent; and where it could not be. */
  words: Record<string, string>
  /** What follows besides its words: page, file or notice; and where those lie. */
  then?: 'message' | 'page' | 'file' | 'notice'
  to?: string
}

/** Code is what is put into a page, in its three places. */
export interface Code {
  head?: string
  start?: string
  end?: string
}

/** A Count is what the site script needs to run a countdown, in one language. */
export interface Count {
  kind: 'to' | 'visitor' | 'repeating' | 'since' | 'number'
  then: 'disappear' | 'say' | 'stay' | 'again' | 'hand-over'
  go?: string
  lang: string
  /** Of time: how long each unit shown is, s, the largest first; what it is called with its number. */
  units?: number[]
  full?: Record<string, string>[]
  /** Where other words stand beside the figures than in the sentence. */
  labels?: Record<string, string>[]
  /** Nothing stands beside the figures. */
  bare?: boolean
  /** Of a visitor's own, and of a number with an end: how long it runs, ms. */
  period?: number
  /** Of a number: size is added times times in each per (ms) from begins (ms since 1970) on, until to. */
  number?: CountedNumber
}

/** A CountedNumber is how a number changes; see Count. */
export interface CountedNumber {
  begins: number
  from: number
  to?: number
  size: number
  times: number
  per: number
}
