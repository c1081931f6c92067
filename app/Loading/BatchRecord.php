<?php

namespace App\Loading;

use App\Support\BulkRows;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Rows\Outcome;

/**
 * Everything a finished batch leaves in Baggage, as text ready to be written. The same bytes are the receipt in the target,
 * so a resumed pass writes exactly what the interrupted one would have written.
 */
final readonly class BatchRecord
{
    /**
     * @param  list<int>  $rows
     * @param  array<string, int>  $counts  outcome → rows
     * @param  list<array{string, string, int, int}>  $matches
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
    public static function of(array $journeys, LoadRun $run, CauseBook $book, array $entities, array $sources): self
    {
        $causes = [];
        foreach ($journeys as $journey) {
            if ($journey->cause !== null) {
                $causes[] = $journey->cause;
            }
        }
        $ids = $causes === [] ? [] : $book->ids($causes);
        $outcomes = $links = '';
        $rows = $counts = $matches = [];
        $linkCount = 0;
        $load = $run->load->id;
        $entity = $run->load->entity_id;
        $source = $run->load->extract->source_id;
        foreach ($journeys as $journey) {
            $outcome = ($journey->outcome ?? Outcome::Pending)->value;
            $rows[] = $journey->row;
            $counts[$outcome] = ($counts[$outcome] ?? 0) + 1;
            $cause = $journey->cause === null ? null : $ids[CauseBook::print($journey->cause)];
            // One record per legacy key is the crosswalk's; a merged row has its own key and its survivor's target key.
            $twin = $journey->targetKey !== null ? 0 : ($load << 32) | $journey->row;
            $outcomes .= BulkRows::line([
                $run->round,
                $load,
                $journey->row,
                $entity,
                $source,
                $journey->legacyKey,
                $twin,
                $outcome,
                $journey->targetKey,
                $cause,
                $journey->rootCause,
                $run->pass->id,
            ]);
            if ($journey->targetKey === null) {
                continue;
            }
            if ($journey->matchKey !== null) {
                $matches[] = [$journey->matchKey, $journey->targetKey, $load, $journey->row];
            }
            if ($journey->outcome === Outcome::Merged) {
                continue;
            }
            foreach ($journey->links as $field => $link) {
                $links .= BulkRows::line([
                    $run->round,
                    $load,
                    $journey->row,
                    $field,
                    $entities[$link['entity']],
                    $sources[$link['source']],
                    $link['key'],
                    $journey->targetKey,
                    'waiting',
                ]);
                $linkCount++;
            }
        }

        return new self($rows === [] ? 0 : max($rows), $rows, $outcomes, $links, $linkCount, $matches, $counts);
    }

    public function pack(): string
    {
        return (string) gzcompress(serialize(get_object_vars($this)), 1);
    }

    public static function unpack(string $packed): self
    {
        $text = @gzuncompress($packed);
        if ($text === false) {
            throw new \RuntimeException('A receipt in the target cannot be read; its bytes are damaged.');
        }

        return new self(...unserialize($text, ['allowed_classes' => false]));
    }
}
