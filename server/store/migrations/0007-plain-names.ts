import type { QueryInterface } from 'sequelize'

/**
 * Plain names: images instead of stills on the shelf, repairs instead of mends, breakpoints instead
 * of limits, ping-pong instead of there and back. Documents are upgraded when they are read.
 */
export const plainNames = {
  name: '0007-plain-names',
  async up(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(`
      ALTER TABLE still_sets RENAME TO image_sets;
      ALTER TABLE sources DROP CONSTRAINT sources_kind_check;
      UPDATE sources SET kind = 'image', facts = jsonb_set(facts, '{kind}', '"image"')
        WHERE kind = 'still';
      ALTER TABLE sources ADD CONSTRAINT sources_kind_check CHECK (kind IN ('clip', 'image'));
      UPDATE sources SET findings = replace(findings::text, '"mend":', '"repair":')::jsonb;
      UPDATE projects SET settings = (settings - 'limits')
        || jsonb_build_object('breakpoints', settings -> 'limits') WHERE settings ? 'limits';
      UPDATE renditions SET key = replace(key, ':there-and-back:', ':ping-pong:')
        WHERE position(':there-and-back:' IN key) > 0;
      -- Files on their way when the server was upgraded are announced again.
      DELETE FROM announced_renditions;
    `)
  },
  async down(queries: QueryInterface): Promise<void> {
    await queries.sequelize.query(`
      ALTER TABLE image_sets RENAME TO still_sets;
      ALTER TABLE sources DROP CONSTRAINT sources_kind_check;
      UPDATE sources SET kind = 'still', facts = jsonb_set(facts, '{kind}', '"still"')
        WHERE kind = 'image';
      ALTER TABLE sources ADD CONSTRAINT sources_kind_check CHECK (kind IN ('clip', 'still'));
      UPDATE sources SET findings = replace(findings::text, '"repair":', '"mend":')::jsonb;
      UPDATE projects SET settings = (settings - 'breakpoints')
        || jsonb_build_object('limits', settings -> 'breakpoints') WHERE settings ? 'breakpoints';
      UPDATE renditions SET key = replace(key, ':ping-pong:', ':there-and-back:')
        WHERE position(':ping-pong:' IN key) > 0;
      DELETE FROM announced_renditions;
    `)
  },
}
