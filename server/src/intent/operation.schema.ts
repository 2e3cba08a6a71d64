import { Joi, type Schema } from '@iron-lattice/core/schema';

const id = Joi.string().uuid().required();
const text = (most: number) => Joi.string().max(most).allow('').required();
const vlan = Joi.number().required();
const span = Joi.object({ first: text(64), last: text(64) });
const list = (item: Schema, most: number) => Joi.array().items(item).max(most);
const address = Joi.string().max(64);
const servedFrom = Joi.alternatives(
  Joi.object({ kind: Joi.string().valid('gateway').required() }),
  Joi.object({ kind: Joi.string().valid('switch').required(), deviceId: id, address: text(64) }),
  Joi.object({ kind: Joi.string().valid('relay').required(), server: text(64) }),
  Joi.object({
    kind: Joi.string().valid('ap').required(),
    how: Joi.string().valid('each', 'one', 'tree').required(),
    deviceIds: list(Joi.string().uuid(), 500).required(),
  }),
);
const addresses = Joi.object({
  first: text(64),
  last: text(64),
  leaseSeconds: Joi.number().required(),
  also: list(span, 32),
  exclude: list(span, 64),
  reservations: list(Joi.object({ mac: text(64), address: text(64), name: text(80) }), 4096),
  dns: list(address, 8),
  route: address,
  ntp: list(address, 8),
  options: list(Joi.object({ code: Joi.number().required(), value: text(600) }), 64),
  from: servedFrom,
})
  .allow(null)
  .required();
const v6 = Joi.object({
  prefix: text(64),
  gateway: text(64),
  mode: Joi.string().valid('slaac', 'stateless', 'stateful').required(),
  first: address,
  last: address,
}).allow(null);
/** Fields that a segment need not have; null takes them away. */
const isolation = Joi.object({ segments: Joi.boolean(), clients: Joi.boolean(), gateway: Joi.boolean() }).allow(null);
const segmentExtras = {
  domain: Joi.string().max(300).allow('', null),
  purpose: Joi.string().max(400).allow('', null),
  v6,
  recipeId: Joi.string().uuid().allow(null),
  isolation,
};
const segmentFields = { name: text(200), vlan, subnet: text(64), gateway: text(64), addresses, ...segmentExtras };
const segmentRef = Joi.string().uuid();
const portFields = {
  untagged: segmentRef.allow(null),
  tagged: Joi.alternatives(Joi.string().valid('all'), list(segmentRef.allow('aired'), 4094)),
  poe: Joi.string().valid('on', 'off'),
  priority: Joi.string().valid('low', 'high', 'critical'),
  speed: Joi.alternatives(Joi.string().valid('auto'), Joi.number().integer().min(10).max(800_000)),
  auth: Joi.string().valid('none', '802.1X', 'mac'),
  isolated: Joi.boolean(),
  storm: Joi.number(),
};
const portEntry = Joi.object({
  ...portFields,
  group: Joi.number().allow(null),
  dutyId: Joi.string().uuid(),
})
  .allow(null)
  .required();
const duty = Joi.object({ id, name: text(200), ...portFields });
const dutyChange = Joi.object({
  name: Joi.string().max(200).allow(''),
  ...Object.fromEntries(Object.entries(portFields).map(([key, schema]) => [key, schema.allow(null)])),
}).required();
const poolFields = { name: text(200), vlans: text(400) };
const recipeFields = {
  name: text(200),
  vlan,
  purpose: text(400),
  domain: text(300),
  length: Joi.number().required(),
  parent: Joi.string().max(64).allow(null).required(),
  leaseSeconds: Joi.number().allow(null).required(),
};
const texts = (most: number) => Joi.array().items(Joi.string().max(200)).max(most);
const ruleEnd = Joi.alternatives(
  Joi.object({ kind: Joi.string().valid('any', 'private', 'internet', 'gateway', 'controller').required() }),
  Joi.object({ kind: Joi.string().valid('segment', 'ssid', 'class', 'set', 'device').required(), name: text(200) }),
  Joi.object({ kind: Joi.string().valid('addresses').required(), text: text(100) }),
);
const octet = Joi.number().integer().min(0).max(255);
const service = Joi.object({
  protocol: Joi.alternatives(Joi.string().valid('any', 'tcp', 'udp', 'icmp'), octet).required(),
  ports: texts(64),
  sourcePorts: texts(64),
  type: octet,
  code: octet,
});
const ends = Joi.array().items(ruleEnd).max(200).required();
const services = Joi.array().items(service).max(64).required();
const weekSpan = Joi.object({
  days: Joi.array().items(Joi.number().integer().min(1).max(7)).max(7).required(),
  from: text(5),
  to: text(5),
});
const ruleFields = {
  verdict: Joi.string().valid('allow', 'deny').required(),
  from: ends,
  to: ends,
  services,
  off: Joi.boolean().allow(null),
  log: Joi.boolean().allow(null),
  at: Joi.string().valid('gateway', 'switches', 'aps').allow(null),
  comment: Joi.string().max(200).allow('', null),
  times: Joi.array().items(weekSpan).max(32).allow(null),
};
const setFields = {
  name: text(200),
  addresses: texts(20_000).allow(null),
  ports: texts(2000).allow(null),
  sets: texts(200).allow(null),
};
const guaranteeFields = {
  kind: Joi.string().valid('never', 'always', 'only').required(),
  from: ends,
  to: ends,
  services,
  besides: Joi.array().items(ruleEnd).max(200).allow(null),
  tag: Joi.string().max(60).allow('', null),
};
const ruleIds = Joi.string().max(100);
const bands = Joi.array()
  .items(Joi.string().valid('2.4', '5', '6'))
  .max(3)
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
  isolation,
  byClass: Joi.boolean().allow(null),
};
const classFields = {
  name: text(200),
  segment: text(200),
  members: list(Joi.object({ mac: text(64), name: text(80) }), 20_000).required(),
  reach,
};

/** The same fields, each optional: what a `set` may name. */
const some = (fields: Readonly<Record<string, Schema>>) =>
  Joi.object(Object.fromEntries(Object.entries(fields).map(([name, schema]) => [name, schema.optional()]))).required();
const type = (name: string) => Joi.string().valid(name).required();
const atPort = { siteId: id, deviceId: id, port: Joi.string().max(16).required() };

/** Edits of a site's rulebook and of the estate's, alike but for whose it is. */
const OF_BOOK = [{ siteId: id }, { book: Joi.string().valid('before', 'after').required() }];
const OF_SCOPE = [{ siteId: id }, { shared: Joi.boolean().valid(true).required() }];
const ruleOperations = OF_BOOK.flatMap((of) => [
  Joi.object({
    type: type('rule.add'),
    ...of,
    rules: Joi.array()
      .items(Joi.object({ id: ruleIds.required(), ...ruleFields }))
      .min(1)
      .max(10_000)
      .required(),
    behind: ruleIds.allow(null).required(),
  }),
  Joi.object({ type: type('rule.remove'), ...of, ruleIds: Joi.array().items(ruleIds).min(1).max(10_000).required() }),
  Joi.object({
    type: type('rule.set'),
    ...of,
    ruleId: ruleIds.required(),
    from: some(ruleFields),
    to: some(ruleFields),
  }),
  Joi.object({
    type: type('rule.move'),
    ...of,
    ruleId: ruleIds.required(),
    from: ruleIds.allow(null).required(),
    to: ruleIds.allow(null).required(),
  }),
]);
const scopedOperations = OF_SCOPE.flatMap((of) => [
  Joi.object({ type: type('set.add'), ...of, set: Joi.object({ id, ...setFields }).required() }),
  Joi.object({ type: type('set.remove'), ...of, setId: id }),
  Joi.object({ type: type('set.set'), ...of, setId: id, from: some(setFields), to: some(setFields) }),
  Joi.object({
    type: type('guarantee.add'),
    ...of,
    guarantee: Joi.object({ id, ...guaranteeFields }).required(),
  }),
  Joi.object({ type: type('guarantee.remove'), ...of, guaranteeId: id }),
  Joi.object({
    type: type('guarantee.set'),
    ...of,
    guaranteeId: id,
    from: some(guaranteeFields),
    to: some(guaranteeFields),
  }),
]);

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
  Joi.object({ type: type('port.set'), ...atPort, from: portEntry, to: portEntry }),
  Joi.object({ type: type('duty.add'), siteId: id, duty: duty.required() }),
  Joi.object({ type: type('duty.remove'), siteId: id, dutyId: id }),
  Joi.object({ type: type('duty.set'), siteId: id, dutyId: id, from: dutyChange, to: dutyChange }),
  Joi.object({ type: type('pool.add'), siteId: id, pool: Joi.object({ id, ...poolFields }).required() }),
  Joi.object({ type: type('pool.remove'), siteId: id, poolId: id }),
  Joi.object({ type: type('pool.set'), siteId: id, poolId: id, from: some(poolFields), to: some(poolFields) }),
  ...ruleOperations,
  ...scopedOperations,
  Joi.object({ type: type('controller.set'), from: texts(32).required(), to: texts(32).required() }),
  Joi.object({ type: type('recipe.add'), recipe: Joi.object({ id, ...recipeFields }).required() }),
  Joi.object({ type: type('recipe.remove'), recipeId: id }),
  Joi.object({ type: type('recipe.set'), recipeId: id, from: some(recipeFields), to: some(recipeFields) }),
  Joi.object({ type: type('class.add'), accessClass: Joi.object({ id, ...classFields }).required() }),
  Joi.object({ type: type('class.remove'), classId: id }),
  Joi.object({ type: type('class.set'), classId: id, from: some(classFields), to: some(classFields) }),
  Joi.object({ type: type('ssid.add'), ssid: Joi.object({ id, ...ssidFields }).required() }),
  Joi.object({ type: type('ssid.remove'), ssidId: id }),
  Joi.object({ type: type('ssid.set'), ssidId: id, from: some(ssidFields), to: some(ssidFields) }),
).match('any');

export const editSchema = Joi.object({
  head: Joi.number().integer().min(0).required(),
  operations: Joi.array().items(operationSchema).min(1).max(2000).required(),
  secrets: Joi.object().pattern(Joi.string().uuid(), Joi.string().max(128)).max(2000),
});
