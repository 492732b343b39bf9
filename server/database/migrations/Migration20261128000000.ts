import { Migration } from '@mikro-orm/migrations'

/**
 * Jobs are chunks with leases; a shot's state follows from its ingest job and is stored no more; a batch's id is its own
 * within a shot; workers tell that they live.
 */
export class Migration20261128000000 extends Migration {
  override up() {
    this.addSql(`
      alter table edit_aside drop constraint edit_aside_pkey;
      alter table edit_aside add primary key (shot_id, batch_id);
      create unique index edit_batch_id on edit_batch (shot_id, batch_id);
      create index edit_batch_author on edit_batch (shot_id, author, sequence);

      -- Edits of some megabytes are stored four times as fast.
      do $$ begin
        alter table edit_batch alter column payload set compression lz4;
        alter table edit_aside alter column payload set compression lz4;
      exception when others then null; -- a server built without it
      end $$;

      create table job_chunk (
        job_id text not null references job (id) on delete cascade,
        index int not null,
        -- the last step, taken when all others are done
        is_finish boolean not null default false,
        first_frame int not null,
        last_frame int not null,
        is_done boolean not null default false,
        done_frames int not null default 0,
        tries int not null default 0,
        worker text,
        lease_until timestamptz,
        result jsonb,
        primary key (job_id, index)
      );
      create index job_chunk_open on job_chunk (job_id) where not is_done;
      create table worker (
        id text primary key,
        seen_at timestamptz not null
      );

      -- What was under way or could not be finished begins again as one chunk.
      insert into job_chunk (job_id, index, is_finish, first_frame, last_frame)
        select job.id, 0, true, shot.first_frame, shot.last_frame
        from job join shot on shot.id = job.shot_id where job.state <> 'done' and job.kind = 'ingest';
      update job set state = 'queued' where state = 'running';
      update job set state = 'cancelled', message = 'Interrupted by an update of the application: start it anew'
        where kind = 'export' and state = 'queued';
      alter table job drop column done;
      alter table job drop column cancel_requested;

      alter table shot add column warnings jsonb not null default '[]';
      alter table shot drop column state;
      alter table shot drop column message;
    `)
  }

  override down() {
    this.addSql(`
      alter table shot add column state text not null default 'ready', add column message text;
      alter table shot drop column warnings;
      alter table job add column done int not null default 0, add column cancel_requested boolean not null default false;
      drop table job_chunk, worker;
      drop index edit_batch_id, edit_batch_author;
      alter table edit_aside drop constraint edit_aside_pkey;
      alter table edit_aside add primary key (batch_id);
    `)
  }
}
