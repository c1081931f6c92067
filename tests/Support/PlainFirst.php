<?php

namespace Tests\Support;

/**
 * Which of rows that are in each other's way gets through, by loops in row order: parties of two loads with one legacy key each, an
 * address nobody shares, and names by which duplicates are known. It knows of no stretches, workers, claims or kills.
 *
 * @phpstan-type Row array{no: string, name: string, mail: string}
 */
final class PlainFirst
{
    /** @var array<string, string> load and row → outcome */
    public array $outcomes = [];

    /** @var array<string, array{name: string, mail: string|null}> load and row, or "other" and number → record */
    public array $records = [];

    /** @var array<string, string> load and row → the record it stands on */
    public array $on = [];

    /** @var array<string, string> legacy key → load and row */
    private array $keys = [];

    /** @var array<string, string> name as compared → record */
    private array $names = [];

    /** @param  array<string, array{name: string, mail: string|null}>  $others  records the target held before */
    public function __construct(
        private readonly bool $isMatched,
        private readonly bool $isUnique,
        private readonly bool $updates,
        array $others,
    ) {
        $this->records = $others;
        foreach ($others as $number => $record) {
            $this->names[self::compared($record['name'])] ??= $number;
        }
    }

    /** @param  array<string, array<int, Row>>  $loads  name → row number → row */
    public function run(array $loads): void
    {
        foreach ($loads as $load => $rows) {
            foreach ($rows as $row => $is) {
                $this->outcomes["$load $row"] = $this->one("$load $row", $is);
            }
        }
    }

    /** @param  Row  $is */
    private function one(string $at, array $is): string
    {
        [$key, $name, $mail] = [trim($is['no']), trim($is['name']), trim($is['mail']) === '' ? null : trim($is['mail'])];
        if ($key === '' || $name === '') {
            return 'rejected';
        }
        if (isset($this->keys[$key])) {
            return 'rejected';
        }
        $compared = self::compared($name);
        $hit = $this->isMatched && $compared !== '' ? $this->names[$compared] ?? null : null;
        if ($hit !== null && in_array($hit, $this->on, true)) {
            [$this->keys[$key], $this->on[$at]] = [$at, $hit];

            return 'merged';
        }
        $record = ['name' => $name, 'mail' => $mail ?? ($hit === null ? null : $this->records[$hit]['mail'])];
        if ($hit !== null && (! $this->updates || $record === $this->records[$hit])) {
            return $this->stand($at, $key, $compared, $hit, 'unchanged');
        }
        if (str_contains($name, '!') || ($this->isUnique && $this->isTaken($record['mail'], $hit))) {
            return 'rejected';
        }
        $this->records[$hit ?? $at] = $record;

        return $this->stand($at, $key, $compared, $hit ?? $at, $hit === null ? 'loaded' : 'updated');
    }

    private function stand(string $at, string $key, string $compared, string $record, string $outcome): string
    {
        [$this->keys[$key], $this->on[$at]] = [$at, $record];
        if ($this->isMatched && $compared !== '') {
            $this->names[$compared] ??= $record;
        }

        return $outcome;
    }

    private function isTaken(?string $mail, ?string $but): bool
    {
        foreach ($mail === null ? [] : $this->records as $number => $record) {
            if ((string) $number !== $but && $record['mail'] !== null && mb_strtolower($record['mail']) === mb_strtolower($mail)) {
                return true;
            }
        }

        return false;
    }

    private static function compared(string $name): string
    {
        return (string) preg_replace('/[^a-z0-9]/', '', strtolower($name));
    }
}
