import Joi from 'joi';

const id = Joi.string().uuid().required();
const text = (most: number) => Joi.string().max(most).allow('').required();
const vlan = Joi.number().required();
const addresses = Joi.object({ first: text(64), last: text(64), leaseSeconds: Joi.number().required() })
  .allow(null)
  .required();
const segmentFields = { name: text(200), vlan, subnet: text(64), gateway: text(64), addresses };
const bands = Joi.array()
  .items(Joi.string().valid('2.4', '5', '6'))
  .unique()
  .required();
const reach = Joi.alternatives(
  Joi.object({ kind: Joi.string().valid('estate').required() }),
  Joi.object({
    kind: Joi.string().valid('sites').required(),
    siteIds: Joi.array().items(Joi.string().uuid()).min(1).max(500).required(),
  }),
).required();
const ssidFields = {
  name: text(200),
  security: Joi.string().valid('wpa2-psk', 'wpa2-wpa3-psk', 'wpa3-sae').required(),
  passphrase: Joi.object({ secret: id }).required(),
  bands,
  segment: text(200),
  reach,
};

/** The same fields, each optional: what a `set` may name. */
const some = (fields: Readonly<Record<string, Joi.Schema>>) =>
  Joi.object(Object.fromEntries(Object.entries(fields).map(([name, schema]) => [name, schema.optional()]))).required();
const type = (name: string) => Joi.string().valid(name).required();
const atPort = { siteId: id, deviceId: id, port: Joi.string().max(16).required() };

/** Shapes of operations. What they mean is judged by core; this only keeps anything else out. */
export const operationSchema = Joi.alternatives(
  Joi.object({ type: type('segment.add'), siteId: id, segment: Joi.object({ id, ...segmentFields }).required() }),
  Joi.object({ type: type('segment.remove'), siteId: id, segmentId: id }),
  Joi.object({
    type: type('segment.set'),
    siteId: id,
    segmentId: id,
    from: some(segmentFields),
    to: some(segmentFields),
  }),
  Joi.object({ type: type('port.tag'), ...atPort, segmentId: id }),
  Joi.object({ type: type('port.untag'), ...atPort, segmentId: id }),
  Joi.object({
    type: type('port.untagged'),
    ...atPort,
    from: Joi.string().uuid().allow(null).required(),
    to: Joi.string().uuid().allow(null).required(),
  }),
  Joi.object({ type: type('ssid.add'), ssid: Joi.object({ id, ...ssidFields }).required() }),
  Joi.object({ type: type('ssid.remove'), ssidId: id }),
  Joi.object({ type: type('ssid.set'), ssidId: id, from: some(ssidFields), to: some(ssidFields) }),
).match('any');

export const editSchema = Joi.object({
  head: Joi.number().integer().min(0).required(),
  operations: Joi.array().items(operationSchema).min(1).max(200).required(),
  secrets: Joi.object().pattern(Joi.string().uuid(), Joi.string().max(128)),
});
