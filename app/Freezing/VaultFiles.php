<?php

namespace App\Freezing;

use App\Models\Audit;
use App\Models\Migration;
use App\Models\Take;
use App\Models\TakeState;
use Illuminate\Container\Attributes\Config;

/** Files of a migration on the disk: uploads nobody froze yet, and those takes were read from. */
final readonly class VaultFiles
{
    public function __construct(private Incoming $incoming, #[Config('baggage.vault')] private string $folder)
    {
    }

    /** @return list<array{id: string, name: string, source: string, bytes: int, since: \DateTimeImmutable}> the newest first */
    public function waiting(Migration $migration): array
    {
        $sources = $migration->sources()->pluck('code', 'id')->all();
        $found = array_filter($this->incoming->waiting(), fn (array $of) => isset($sources[$of['source']]));
        usort($found, fn (array $a, array $b) => $b['since'] <=> $a['since']);

        return array_map(fn (array $of) => ['source' => (string) $sources[$of['source']]] + $of, $found);
    }

    /**
     * One line for each file, however many tables were read from it.
     *
     * @return list<array{take: int, name: string, of: string, bytes: int|null, at: \Illuminate\Support\Carbon|null, mayGo: bool}>
     *                                                                                              bytes are null where it is gone
     */
    public function taken(Migration $migration): array
    {
        $files = [];
        foreach ($migration->takes()->with('extract.source')->where('file', '<>', '')->orderByDesc('id')->get() as $take) {
            $of = "{$take->extract?->source?->code}/{$take->extract?->name} take $take->number";
            $known = $files[$take->file] ?? null;
            $files[$take->file] = [
                'take' => $take->id,
                'name' => $take->file_name,
                'of' => $known === null ? $of : "$known[of], $of",
                'bytes' => is_file($take->file) ? (int) filesize($take->file) : null,
                'at' => $take->taken_at,
                'mayGo' => $this->isOurs($take) && ! self::isGoing($take) && ($known['mayGo'] ?? true),
            ];
        }

        return array_values($files);
    }

    /** @throws \DomainException */
    public function forget(Migration $migration, string $upload): void
    {
        $of = array_column($this->waiting($migration), null, 'id')[$upload]
            ?? throw new \DomainException('This upload is not there any more.');
        $this->incoming->forget($upload);
        Audit::note($migration->id, "removed the upload $of[name]");
    }

    /**
     * The rows that were read stay; the file they were read from goes.
     *
     * @throws \DomainException
     */
    public function remove(Migration $migration, Take $take): void
    {
        if (! $this->isOurs($take)) {
            throw new \DomainException("\"$take->file_name\" lies where the plan does, and is not Baggage's to remove.");
        }
        $sharing = $migration->takes()->where('file', $take->file)->get();
        if ($sharing->contains(self::isGoing(...))) {
            throw new \DomainException("\"$take->file_name\" is being read: wait for its end, or stop it.");
        }
        @unlink($take->file);
        Audit::note($migration->id, "removed the file $take->file_name", ['sha256' => $take->checksum]);
    }

    /** The file of a take that goes, where it is ours and no other take was read from it. */
    public static function forgetOf(Take $take): void
    {
        $isShared = $take->file === '' || Take::query()->where('file', $take->file)->whereKeyNot($take->id)->exists();
        if (! $isShared && app(self::class)->isOurs($take)) {
            @unlink($take->file);
        }
    }

    /** What the command line reads stays where somebody put it. */
    private function isOurs(Take $take): bool
    {
        $path = realpath($take->file);

        return $path !== false && str_starts_with($path, realpath($this->folder).'/');
    }

    private static function isGoing(Take $take): bool
    {
        return in_array($take->state, [TakeState::Waiting, TakeState::Reading, TakeState::Stopping], true);
    }
}
