/** What a portal says by itself. Braces hold what is put in: `{name}`. */
export interface PortalTexts {
  /** Its title, where nobody wrote one. */
  readonly welcome: string;
  readonly accept: string;
  readonly code: string;
  readonly codeHint: string;
  readonly useCode: string;
  readonly terms: string;
  readonly agree: string;
  readonly agreeFirst: string;
  readonly back: string;
  readonly language: string;
  readonly moreNews: string;
  readonly codeWrong: string;
  readonly codeOver: string;
  readonly codeDevices: string;
  readonly tooMany: string;
  readonly waiting: string;
  readonly waitingText: string;
  readonly waitingLong: string;
  readonly done: string;
  readonly until: string;
  readonly left: string;
  /** The octets of a day are used up: {time}. */
  readonly slower: string;
  readonly goOn: string;
  readonly quota: string;
  readonly quotaText: string;
  readonly over: string;
  /** Nobody is let in at that hour: until when, or for longer than is known. */
  readonly closed: string;
  readonly closedText: string;
  readonly closedLong: string;
  /** Its time is over, and it has to wait; and: it took nothing for long. */
  readonly rests: string;
  readonly idle: string;
  readonly blocked: string;
  readonly openAny: string;
  readonly openAnyText: string;
  /** Leads to where whoever is held is sent to the portal. */
  readonly signIn: string;
  /** Of a mail with a visit code: {site}, {code}, {ssid}, {url}, {span}. */
  readonly mailSubject: string;
  readonly mailText: string;
  readonly linkUsed: string;
  readonly linkOld: string;
  readonly gone: string;
  readonly notNow: string;
  /** Ways in that begin with who somebody is, as links. */
  readonly byMail: string;
  readonly byPhone: string;
  readonly bySponsor: string;
  /** What a guest is asked for. */
  /** By a name and a password that are known already. */
  readonly byUser: string;
  /** An account elsewhere, by what guests call it: {name}. */
  readonly byAccount: string;
  readonly onToAccount: string;
  readonly accountNot: string;
  readonly userName: string;
  readonly password: string;
  readonly userWrong: string;
  readonly userLater: string;
  readonly userBarred: string;
  readonly name: string;
  readonly company: string;
  readonly reason: string;
  readonly mail: string;
  readonly phone: string;
  readonly phoneHint: string;
  readonly contact: string;
  readonly contactHint: string;
  readonly maySkip: string;
  readonly whom: string;
  readonly whomMail: string;
  readonly somebodyElse: string;
  readonly sendCode: string;
  readonly ask: string;
  readonly missing: string;
  readonly noLinks: string;
  readonly mailWrong: string;
  readonly phoneWrong: string;
  readonly sponsorWrong: string;
  readonly askedOften: string;
  readonly notSent: string;
  /** What somebody reads to whom a code was sent: {to}, {time}. */
  readonly enterCode: string;
  readonly sentTo: string;
  readonly theCode: string;
  readonly confirm: string;
  readonly sendAgain: string;
  readonly otherWay: string;
  readonly codeSpent: string;
  readonly firstOver: string;
  readonly stayIn: string;
  /** What somebody reads who waits for a yes: {who}, {time}. */
  readonly asked: string;
  readonly askedText: string;
  readonly refused: string;
  readonly refusedText: string;
  readonly unanswered: string;
  /** Of a mail, and of a text message, with a code that is given on the page: {site}, {code}, {time}. */
  readonly codeSubject: string;
  readonly codeText: string;
  readonly codeMessage: string;
  /** Of a mail to whoever may say yes: {name}, {site}, {said}, {time}, {url}. */
  readonly askSubject: string;
  readonly askText: string;
  /** Of a mail to who hears of everybody, and to the guest: {who}, {name}, {site}, {time}. */
  readonly toldSubject: string;
  readonly toldText: string;
  readonly inSubject: string;
  readonly inText: string;
  /** A guest who was not asked for a name. */
  readonly someone: string;
  /** What whoever may say yes reads. */
  readonly asksIn: string;
  readonly where: string;
  readonly askedAt: string;
  readonly device: string;
  readonly howLong: string;
  readonly letIn: string;
  readonly refuse: string;
  readonly letInUntil: string;
  readonly wasRefused: string;
  readonly answeredBy: string;
  readonly askOver: string;
  readonly askUnknown: string;
  /** How somebody comes to where a visit code is asked for: by an SSID {ssid}, or by a cable. */
  readonly joinSsid: string;
  readonly plugIn: string;
  /** Of a text message with a visit code to somebody who comes by a cable: {site}, {code}, {url}, {span}. */
  readonly pluggedMessage: string;
  /** Of a text message with a visit code: {site}, {code}, {ssid}, {url}, {span}. */
  readonly visitMessage: string;
}
