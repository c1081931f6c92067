<?php

namespace App\View;

use Baggage\Core\Reconciling\FieldTally;

/** One field of a load as it was compared. */
final readonly class ComparedField
{
    /** @param  list<array{class: string, happened: string, rows: int}>  $classes  the largest first */
    private function __construct(
        public string $name,
        public int $equal,
        public int $different,
        public int $left,
        public array $classes,
    ) {
    }

    /** @param  array<string, mixed>  $tally  as FieldTally::toArray() */
    public static function of(string $name, array $tally): self
    {
        $of = FieldTally::fromArray($tally);
        $classes = [];
        foreach ($of->classes as $class => $when) {
            foreach ($when as $happened => $rows) {
                $classes[] = ['class' => (string) $class, 'happened' => (string) $happened, 'rows' => $rows];
            }
        }
        usort($classes, fn (array $a, array $b) => $b['rows'] <=> $a['rows']);

        return new self($name, $of->equal, $of->different, $of->left, $classes);
    }
}
