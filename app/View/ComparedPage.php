<?php

namespace App\View;

use App\Models\Reckoning;
use App\Reckoning\Reckoned;
use Baggage\Core\Reconciling\FieldTally;
use Baggage\Core\Reconciling\SampleSize;

/** A comparison as its page shows it. */
final readonly class ComparedPage
{
    /**
     * @param  list<array{load: int, name: string, missing: int, unknown: int, fields: list<ComparedField>}>  $loads
     * @param  int  $looked  records that were compared
     * @param  int  $of  those there were
     */
    private function __construct(
        public array $loads,
        public int $looked,
        public int $of,
        public int $wrong,
        public ?int $sample,
        public ?int $seed,
        public float $confidence,
        public float $shown,
    ) {
    }

    /**
     * Records that somebody changed in one way since they were sent.
     *
     * @param  string  $field  none where the record is gone
     */
    public function changedSince(int $load, string $field, string $class): int
    {
        foreach ($this->loads as $of) {
            if ($of['load'] === $load && $field === '') {
                return $of['missing'];
            }
            foreach ($of['load'] === $load ? $of['fields'] : [] as $compared) {
                foreach ($compared->name === $field ? $compared->classes : [] as $c) {
                    if ($c['class'] === $class && $c['happened'] === FieldTally::SINCE) {
                        return $c['rows'];
                    }
                }
            }
        }

        return 0;
    }

    public static function of(Reckoning $reckoning, ?string $entity): self
    {
        $loads = [];
        $wrong = 0;
        foreach ($reckoning->figures['loads'] ?? [] as $load) {
            if ($entity === null || $load['entity'] === $entity) {
                $load['fields'] = array_map(
                    fn (string $name, array $f) => ComparedField::of($name, $f),
                    array_map(strval(...), array_keys($load['fields'])),
                    array_values($load['fields']),
                );
                $wrong += $load['missing'] + array_sum(array_map(fn (ComparedField $f) => $f->different, $load['fields']));
                $loads[] = $load;
            }
        }
        [$of, $looked] = [(int) ($reckoning->figures['of'] ?? 0), (int) ($reckoning->figures['looked'] ?? 0)];
        $confidence = (float) ($reckoning->asked['confidence'] ?? Reckoned::CONFIDENCE);

        return new self(
            $loads, $looked, $of, $wrong, $reckoning->asked['sample'] ?? null, $reckoning->asked['seed'] ?? null, $confidence,
            SampleSize::shown($of, $looked, $confidence),
        );
    }
}
