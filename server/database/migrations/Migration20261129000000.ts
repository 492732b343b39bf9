import { Migration } from '@mikro-orm/migrations'

/** Tokens of the live hand-off. */
export class Migration20261129000000 extends Migration {
  override up() {
    this.addSql(`
      create table live_token (
        id text primary key,
        shot_id text not null references shot (id) on delete cascade,
        name text not null,
        hash text not null unique,
        created_at timestamptz not null,
        expires_at timestamptz not null,
        revoked_at timestamptz,
        used_at timestamptz
      );
      create index live_token_shot on live_token (shot_id);
    `)
  }

  override down() {
    this.addSql('drop table live_token;')
  }
}
