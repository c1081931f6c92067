<?php

namespace App\Plans;

use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Models\Extract;
use App\Models\Migration;
use App\Models\Round;
use App\Models\Take;
use App\Staging\Freezer;
use Baggage\Core\Plan\PlanError;
use Baggage\Core\Plan\PlanReader;

/** Runs a plan without a screen: reads it, freezes its files, and works on a round. */
final class Headless
{
    public function __construct(private readonly PlanReader $reader, private readonly PlanImporter $importer, private readonly Freezer $freezer, private readonly Rounds $rounds)
    {
    }

    /**
     * @return array{array<string, mixed>, string} plan and the folder its files are relative to
     *
     * @throws PlanError
     */
    public function read(string $file): array
    {
        if (! is_file($file) || ! is_readable($file)) {
            throw new PlanError('there is no such file, or it may not be read.', $file);
        }

        return [$this->reader->read((string) file_get_contents($file), $file), dirname((string) realpath($file))];
    }

    /** @throws PlanError */
    public function import(string $file): Migration
    {
        [$plan] = $this->read($file);

        return $this->importer->import($plan, $file);
    }

    /**
     * Freezes every extract of the plan that names a file and has no take of exactly these bytes.
     *
     * @param  \Closure(Extract, Take): void  $told
     *
     * @throws PlanError
     */
    public function freeze(Migration $migration, string $file, \Closure $told): void
    {
        $folder = dirname((string) realpath($file));
        foreach (Extract::query()->whereHas('source', fn ($q) => $q->where('migration_id', $migration->id))->with('source')->orderBy('id')->get() as $extract) {
            if ($extract->origin === null) {
                continue;
            }
            $path = str_starts_with($extract->origin, '/') ? $extract->origin : "$folder/$extract->origin";
            $where = "{$extract->source->code}/$extract->name";
            if (! is_file($path) || ! is_readable($path)) {
                throw new PlanError("the file $extract->origin of extract $where is not there, or may not be read", $file, null, 'sources');
            }
            $last = $extract->take;
            if ($last !== null && $last->checksum === hash_file('sha256', $path) && $last->state === 'frozen') {
                continue;
            }
            $take = $extract->takes()->create([
                'number' => (int) $extract->takes()->max('number') + 1, 'state' => 'waiting', 'file' => $path, 'file_name' => basename($path), 'bytes' => (int) filesize($path),
            ]);
            $this->freezer->freeze($take);
            if ($take->refresh()->state === 'failed') {
                throw new PlanError("$extract->origin: $take->error", $file, null, "sources, extract $where");
            }
            $told($extract, $take);
        }
    }

    /** Brings the round as far as it goes: first pass, an interrupted pass, or what was repaired. */
    public function run(Migration $migration, string $name, ?string $connection): Round
    {
        $round = $migration->rounds()->where('name', $name)->first();
        if ($round === null) {
            $target = $migration->targets()->when($connection !== null, fn ($q) => $q->where('name', $connection))->orderBy('id')->first()
                ?? throw new \DomainException("The plan has no connection named \"$connection\".");
            $round = $this->rounds->begin($migration, $target, $name, str_starts_with($name, 'cutover') ? 'cutover' : 'rehearsal');
        }
        $pass = $round->latestPass();
        if ($pass === null) {
            $pass = $this->rounds->pass($round, 'first');
        } elseif ($pass->state === 'finished') {
            $pass = $this->rounds->pass($round, 'retry');
        } else {
            // Whatever stopped it, this process takes the pass over; its loads are locked one by one.
            $pass->update(['state' => 'queued', 'stop_requested' => false, 'error' => null, 'finished_at' => null]);
            $pass->passLoads()->whereIn('state', ['failed', 'blocked'])->update(['state' => 'waiting', 'error' => null]);
        }
        (new PassRunner($pass))->work();

        return $round;
    }
}
