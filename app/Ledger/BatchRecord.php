<?php

namespace App\Ledger;

use App\Support\BulkRows;
use Baggage\Core\Loading\Stretch;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Rows\Outcome;

/** Everything a stretch of rows leaves in the ledger, as text ready to be written. */
final readonly class BatchRecord
{
    /**
     * @param  list<int>  $rows
     * @param  array<string, int>  $counts  outcome → rows
     * @param  list<MatchEntry>  $matches
     */
    public function __construct(
        public int $last,
        public array $rows,
        public string $outcomes,
        public string $links,
        public int $linkCount,
        public array $matches,
        public array $counts,
    ) {
    }

    /**
     * @param  list<Journey>  $journeys
     * @param  array<string, int>  $entities
     * @param  array<string, int>  $sources
     */
    public static function of(
        Stretch $stretch,
        array $journeys,
        LoadRun $run, CauseBook $book,
        array $entities,
        array $sources,
    ): self {
        $ids = $book->ids(array_values(array_filter(array_map(fn (Journey $j) => $j->cause, $journeys))));
        $outcomes = $links = '';
        $rows = $counts = $matches = [];
        $linkCount = 0;
        foreach ($journeys as $journey) {
            $outcome = ($journey->outcome ?? Outcome::Pending)->value;
            $rows[] = $journey->row;
            $counts[$outcome] = ($counts[$outcome] ?? 0) + 1;
            $outcomes .= self::line($journey, $outcome, $run, $ids);
            if ($journey->targetKey === null) {
                continue;
            }
            if ($journey->matchKey !== null) {
                $matches[] = new MatchEntry($journey->matchKey, $journey->targetKey, $run->load->id, $journey->row);
            }
            if ($journey->outcome !== Outcome::Merged) {
                $links .= self::links($journey, $run, $entities, $sources);
                $linkCount += count($journey->links);
            }
        }

        return new self($stretch->to, $rows, $outcomes, $links, $linkCount, $matches, $counts);
    }

    /** @param  array<string, int>  $causes hash → id */
    private static function line(Journey $journey, string $outcome, LoadRun $run, array $causes): string
    {
        $load = $run->load;

        return BulkRows::line([
            $run->round(),
            $load->id,
            $journey->row,
            $run->entity,
            $run->source,
            $journey->legacyKey,
            // One record per legacy key is the crosswalk's; a merged row has its own key and its survivor's target key.
            $journey->targetKey !== null ? 0 : ($load->id << 32) | $journey->row,
            $outcome,
            $journey->targetKey,
            $journey->cause === null ? null : $causes[CauseBook::hash($journey->cause)],
            $journey->rootCause,
            $run->pass->id,
        ]);
    }

    /**
     * @param  array<string, int>  $entities
     * @param  array<string, int>  $sources
     */
    private static function links(Journey $journey, LoadRun $run, array $entities, array $sources): string
    {
        $lines = '';
        foreach ($journey->links as $field => $link) {
            $lines .= BulkRows::line([
                $run->round(),
                $run->load->id,
                $journey->row,
                $field,
                $entities[$link['entity']],
                $sources[$link['source']],
                $link['key'],
                $journey->targetKey,
                LinkState::Waiting->value,
            ]);
        }

        return $lines;
    }
}
