import { Migration } from '@mikro-orm/migrations'

/** First schema: projects, shots, the edit log with its snapshots, jobs. */
export class Migration20261124000000 extends Migration {
  override up() {
    this.addSql(`
      create table project (
        id text primary key,
        name text not null,
        created_at timestamptz not null
      );
      create table shot (
        id text primary key,
        project_id text not null references project (id) on delete cascade,
        name text not null,
        state text not null check (state in ('ingesting', 'ready', 'failed')),
        message text,
        created_at timestamptz not null,
        width int not null,
        height int not null,
        first_frame int not null,
        last_frame int not null,
        rate_numerator int not null,
        rate_denominator int not null,
        pixel_aspect double precision not null,
        colour_encoding text not null,
        head_sequence int not null default 0,
        sources jsonb not null
      );
      create index shot_project on shot (project_id);
      create table edit_batch (
        shot_id text not null references shot (id) on delete cascade,
        sequence int not null,
        batch_id text not null,
        client_id text not null,
        client_sequence int not null,
        author text not null,
        label text not null,
        undoes text,
        created_at timestamptz not null,
        payload text not null,
        primary key (shot_id, sequence),
        unique (shot_id, client_id, client_sequence)
      );
      create table edit_aside (
        batch_id text primary key,
        shot_id text not null references shot (id) on delete cascade,
        client_id text not null,
        client_sequence int not null,
        author text not null,
        label text not null,
        reason text not null,
        created_at timestamptz not null,
        payload text not null,
        unique (shot_id, client_id, client_sequence)
      );
      create table document_object (
        hash text primary key,
        bytes bytea not null
      );
      create table snapshot (
        shot_id text not null references shot (id) on delete cascade,
        sequence int not null,
        hashes jsonb not null,
        primary key (shot_id, sequence)
      );
      create table job (
        id text primary key,
        kind text not null,
        shot_id text not null references shot (id) on delete cascade,
        title text not null,
        state text not null check (state in ('queued', 'running', 'done', 'failed', 'cancelled')),
        done int not null default 0,
        total int not null default 0,
        message text,
        cancel_requested boolean not null default false,
        created_at timestamptz not null,
        payload jsonb not null
      );
      create index job_shot on job (shot_id, created_at);
    `)
  }

  override down() {
    this.addSql('drop table job, snapshot, document_object, edit_aside, edit_batch, shot, project;')
  }
}
