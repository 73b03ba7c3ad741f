import { createHash } from 'node:crypto';
import type { FastifyInstance } from 'fastify';
import { imageSize } from 'image-size';
import Joi from 'joi';
import { limits } from '../world/account.ts';
import type { CatalogueItem } from '../world/catalogue.ts';
import { type BidRange, type TargetAsked } from '../world/clearing.ts';
import { words } from '../world/matching.ts';
import type { World } from '../world/world.ts';
import { check, page, problem } from './answers.ts';

interface CatalogueQuery {
  search?: string;
  item_code?: string;
  category?: string;
  brand?: string;
  price_from?: number;
  price_to?: number;
  rating_from?: number;
  rating_to?: number;
  in_stock?: boolean;
  cursor?: string;
  limit?: string;
}

const catalogueSchema = Joi.object<CatalogueQuery>({
  search: Joi.string().allow(''),
  /** One, or several parted by commas. */
  item_code: Joi.string(),
  category: Joi.string(),
  brand: Joi.string(),
  price_from: Joi.number().min(0),
  price_to: Joi.number().min(0),
  rating_from: Joi.number().min(0).max(5),
  rating_to: Joi.number().min(0).max(5),
  in_stock: Joi.boolean(),
  cursor: Joi.string(),
  limit: Joi.string(),
});

interface SuggestionsAsked {
  sku: string;
  keywords: number;
  items: number;
  targets: { target_kind: string; match_type: string | null; expression: string }[];
}

const suggestionsSchema = Joi.object<SuggestionsAsked>({
  sku: Joi.string().required(),
  keywords: Joi.number().integer().min(0).max(500).default(0),
  items: Joi.number().integer().min(0).max(200).default(0),
  targets: Joi.array()
    .items(
      Joi.object({
        target_kind: Joi.string().valid('keyword', 'item').required(),
        match_type: Joi.string().valid('broad', 'phrase', 'exact').allow(null).default(null),
        expression: Joi.string().required(),
      }),
    )
    .max(1000)
    .default([]),
});

const topUpSchema = Joi.object<{ amount: number }>({ amount: Joi.number().positive().max(1e6).required() });

const itemRow = (item: CatalogueItem) => ({
  item_code: item.itemCode,
  sku: item.sku,
  title: item.title,
  brand: item.brand,
  category: item.category,
  price: item.price,
  list_price: item.listPrice,
  discount: item.discount,
  rating: item.rating,
  stock: item.stock,
});

const within = (value: number, from: number | undefined, to: number | undefined): boolean =>
  value >= (from ?? -Infinity) && value <= (to ?? Infinity);

function found(items: readonly CatalogueItem[], asked: CatalogueQuery): CatalogueItem[] {
  const wanted = words(asked.search ?? '');
  const codes = new Set(asked.item_code?.toUpperCase().split(','));
  return items.filter(
    (item) =>
      wanted.every((word) => words(`${item.title} ${item.itemCode}`).some((one) => one.startsWith(word))) &&
      (asked.item_code === undefined || codes.has(item.itemCode)) &&
      (asked.category === undefined || item.category === asked.category) &&
      (asked.brand === undefined || item.brand.toLowerCase() === asked.brand.toLowerCase()) &&
      within(item.price, asked.price_from, asked.price_to) &&
      within(item.rating, asked.rating_from, asked.rating_to) &&
      (asked.in_stock !== true || item.stock > 0),
  );
}

const bidRow = (bid: BidRange | null) => bid && { low: bid.low, middle: bid.middle, high: bid.high };

/** What a file of a picture is; throws a problem with the reason. */
function checkPicture(bytes: Buffer, type: string): void {
  if (bytes.length > limits.picture_bytes)
    throw problem(400, 'picture_too_big', `A picture has at most ${limits.picture_bytes} bytes.`);
  const size = (() => {
    try {
      return imageSize(bytes);
    } catch {
      return null;
    }
  })();
  const said = type === 'image/png' ? 'png' : 'jpg';
  if (size?.type !== said)
    throw problem(400, 'bad_picture', `The file is no ${said === 'png' ? 'PNG' : 'JPEG'} picture.`);
  const { picture_pixels: pixels } = limits;
  if (size.width !== pixels || size.height !== pixels)
    throw problem(
      400,
      'picture_size',
      `A picture has ${pixels} x ${pixels} pixels, this one ${size.width} x ${size.height}.`,
    );
}

/** The catalogue, what is suggested from it, pictures, and the account's prepaid money. */
export function catalogueRoutes(app: FastifyInstance, world: World): void {
  app.get('/catalogue', async ({ query }) => {
    const asked = check(catalogueSchema, query);
    return page(found(world.catalogue.all, asked).map(itemRow), asked);
  });

  app.get('/categories', async () => ({
    items: [...world.catalogue.categories].sort().map((category) => ({
      category,
      items: world.catalogue.all.filter((item) => item.category === category).length,
      related: [...world.catalogue.neighbours(category)].sort(),
    })),
  }));

  app.post('/suggestions', async ({ body }) => {
    const asked = check(suggestionsSchema, body);
    const product = world.productIndex.get(asked.sku);
    if (product === undefined)
      throw problem(404, 'unknown_product', `The account has no product ${asked.sku}.`);
    const advice = world.advice();
    return {
      keywords: advice.keywords(product, asked.keywords).map(({ keyword, monthlySearches, bid }) => ({
        keyword,
        monthly_searches: monthlySearches,
        bid: bidRow(bid),
      })),
      items: advice.items(product, asked.items).map(({ item, monthlyVisits, bid }) => ({
        ...itemRow(item),
        monthly_visits: monthlyVisits,
        bid: bidRow(bid),
      })),
      targets: asked.targets.map((target) => {
        const one: TargetAsked = {
          kind: target.target_kind,
          matchType: target.match_type,
          expression: target.expression,
        };
        return { ...target, bid: bidRow(advice.bidFor(product, one)) };
      }),
    };
  });

  app.addContentTypeParser(['image/png', 'image/jpeg'], { parseAs: 'buffer' }, (_request, bytes, done) =>
    done(null, bytes),
  );
  app.post('/pictures', async ({ body, headers }, reply) => {
    if (!Buffer.isBuffer(body))
      throw problem(400, 'bad_picture', 'A picture is sent as image/png or image/jpeg.');
    const type = headers['content-type']!;
    checkPicture(body, type);
    const id = `p${createHash('sha256').update(body).digest('hex').slice(0, 16)}`;
    await world.sql`insert into picture values (${id}, ${type}, ${body}) on conflict (id) do nothing`;
    return reply.status(201).send({ id });
  });
  app.get<{ Params: { id: string } }>('/pictures/:id', async ({ params }, reply) => {
    const [picture] = await world.sql<{ type: string; bytes: Buffer }[]>`
      select type, bytes from picture where id = ${params.id}`;
    if (!picture) throw problem(404, 'unknown_picture', `There is no picture ${params.id}.`);
    return reply.type(picture.type).send(picture.bytes);
  });

  app.get('/wallet', async () => ({ balance: world.memory.wallet ?? null }));
  app.post('/wallet', async ({ body }) => ({ balance: await world.topUp(check(topUpSchema, body).amount) }));
}
