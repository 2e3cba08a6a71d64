import type { Rule, RuleService, WeekSpan } from '../../rules';
import { Joi, type Schema } from '../../schema';
import { id, list, some, text, texts, type, type Shapes } from '../shape';
import { MOST_RULES } from './apply';
import type { RuleFields } from './operations';

const ruleId = Joi.string().max(100);
const octet = Joi.number().integer().min(0).max(255);
const end = Joi.alternatives(
  Joi.object({ kind: Joi.string().valid('any', 'private', 'internet', 'gateway', 'controller').required() }),
  Joi.object({ kind: Joi.string().valid('segment', 'ssid', 'class', 'set', 'device').required(), name: text(200) }),
  Joi.object({ kind: Joi.string().valid('addresses').required(), text: text(100) }),
);
const service = {
  protocol: Joi.alternatives(Joi.string().valid('any', 'tcp', 'udp', 'icmp'), octet).required(),
  ports: texts(64),
  sourcePorts: texts(64),
  type: octet,
  code: octet,
} satisfies Shapes<RuleService>;
const span = {
  days: list(Joi.number().integer().min(1).max(7), 7).required(),
  from: text(5),
  to: text(5),
} satisfies Shapes<WeekSpan>;

/** Ends and services, of rules and of guarantees. */
export const ends = list(end, 200);
export const services = list(Joi.object(service), 64).required();

const fields = {
  verdict: Joi.string().valid('allow', 'deny').required(),
  from: ends.required(),
  to: ends.required(),
  services,
  off: Joi.boolean().allow(null),
  log: Joi.boolean().allow(null),
  at: Joi.string().valid('gateway', 'switches', 'aps').allow(null),
  comment: Joi.string().max(200).allow('', null),
  times: list(Joi.object(span), 32).allow(null),
  hours: Joi.string().uuid().allow(null),
} satisfies Shapes<RuleFields>;
const rule = Joi.object({ id: ruleId.required(), ...fields } satisfies Shapes<Rule>);
const place = ruleId.allow(null).required();
const many = (item: Schema) => Joi.array().items(item).min(1).max(MOST_RULES).required();

/** Edits of a site's rulebook and of the estate's, alike but for whose it is. */
export const ruleShapes: readonly Schema[] = [
  { siteId: id },
  { book: Joi.string().valid('before', 'after').required() },
].flatMap((of) => [
  Joi.object({ type: type('rule.add'), ...of, rules: many(rule), behind: place }),
  Joi.object({ type: type('rule.remove'), ...of, ruleIds: many(ruleId) }),
  Joi.object({ type: type('rule.set'), ...of, ruleId: ruleId.required(), from: some(fields), to: some(fields) }),
  Joi.object({ type: type('rule.move'), ...of, ruleId: ruleId.required(), from: place, to: place }),
]);
