<?php

namespace App\Ledger;

use Baggage\Core\Loading\LoadLedger;
use Baggage\Core\Loading\Stretch;

/** The ledger as one load of a pass writes it. */
final class LoadBook implements LoadLedger
{
    private float $since = 0;

    public function __construct(
        private readonly LoadRun $run,
        private readonly LedgerReader $reader,
        private readonly LedgerWriter $writer,
        private readonly MatchEntries $matches,
        private readonly CauseBook $causes,
        private readonly Spaces $spaces,
    ) {
    }

    public function position(): int
    {
        $this->since = microtime(true);

        return $this->run->progress->cursor_row;
    }

    public function record(Stretch $stretch, array $journeys): void
    {
        $record = BatchRecord::of($stretch, $journeys, $this->run, $this->causes, $this->spaces);
        $this->writer->record($this->run, $record, $this->replaces(), $this->matches, microtime(true) - $this->since);
    }

    public function due(int $after, int $most): array
    {
        return $this->reader->due($this->run->load->id, $after, $most);
    }

    public function announced(): ?int
    {
        return $this->run->progress->key_cursor;
    }

    public function announce(array $keys): void
    {
        $this->writer->announce($this->run, array_map(fn (string $key) => mb_substr($key, 0, 190), $keys));
    }

    /** Whether rows may have an outcome already. */
    public function replaces(): bool
    {
        return $this->run->isRetry() || $this->run->progress->key_cursor !== null;
    }
}
