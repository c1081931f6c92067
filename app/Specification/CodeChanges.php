<?php

namespace App\Specification;

use App\Models\Change;
use App\Models\ChangeKind;
use App\Models\CodeCrosswalk;
use App\Models\CodeDecision;
use App\Models\CodeEntry;
use App\Models\Migration;
use App\Rejects\Repairs;

/**
 * Changed new values, decisions and notes of code crosswalks. A value is said as "value X", "empty" or "reject".
 */
final readonly class CodeChanges
{
    private const DECISIONS = ['value', 'empty', 'reject'];

    private const LONGEST = 190;

    public function __construct(private Repairs $repairs)
    {
    }

    /**
     * @param  array<int, array<string, string>>  $rows  by number
     * @param  CodeCrosswalk|null  $only  the crosswalk all of them are of
     * @return list<Change>
     */
    public function read(Migration $migration, array $rows, ?CodeCrosswalk $only): array
    {
        $crosswalks = $migration->codeCrosswalks()->with('entries')->get()->keyBy('name');
        $found = $seen = [];
        foreach ($rows as $number => $row) {
            $name = $only === null ? $row['Crosswalk'] : $only->name;
            $crosswalk = $crosswalks[$name] ?? null;
            $old = trim($row['Old value']);
            if ($old === '') {
                continue;
            }
            if ($crosswalk === null) {
                $problem = "There is no code crosswalk \"$name\".";
                $found[] = (new Change(ChangeKind::Code, "Codes, row $number", 'Crosswalk', '', $name))->but($problem);

                continue;
            }
            $before = $seen[$name][$old] ?? null;
            $entry = $crosswalk->entries->firstWhere('old_value', $old);
            $is = $this->is($row, self::said($entry));
            $found = [...$found, ...$this->ofRow($crosswalk, $entry, $row, $is, $before)];
            $seen[$name][$old] ??= ['is' => $is, 'row' => $number];
        }

        return $found;
    }

    /**
     * @param  array<string, string>  $row
     * @param  array{is: string, row: int}|null  $before  what an earlier row said of the same old value
     * @return list<Change>
     */
    private function ofRow(CodeCrosswalk $crosswalk, ?CodeEntry $entry, array $row, string $is, ?array $before): array
    {
        $old = trim($row['Old value']);
        $was = self::said($entry);
        $where = "$crosswalk->name, $old";
        $problem = $this->problem($row, $is, $before);
        $found = [];
        if ($problem !== null || ($is !== $was && $is !== '' && $before === null)) {
            $data = ['crosswalk' => $crosswalk->id, 'old' => $old, 'is' => $is];
            $found[] = (new Change(ChangeKind::Code, $where, 'New value', $was, $is, $data))->but($problem);
        }
        $noted = isset($row['Note']) && trim($row['Note']) !== trim((string) $entry?->note);
        if ($before === null && $noted && ($entry !== null || $is !== '')) {
            $data = ['crosswalk' => $crosswalk->id, 'old' => $old, 'note' => $row['Note']];
            $found[] = new Change(ChangeKind::Code, $where, 'Note', (string) $entry?->note, $row['Note'], $data);
        }

        return $found;
    }

    /**
     * A new value says by itself that it is one; the decision is for the two that have none.
     *
     * @param  array<string, string>  $row
     */
    private function is(array $row, string $was): string
    {
        $decision = strtolower($row['Decision'] ?? '');
        $contradicts = in_array($decision, ['reject', 'empty'], true) && $was !== $decision;

        $isKnown = in_array($decision, ['', ...self::DECISIONS], true);

        return match (true) {
            $row['New value'] !== '' && $isKnown && ! $contradicts => "value {$row['New value']}",
            in_array($decision, ['empty', 'reject'], true) => $decision,
            default => '',
        };
    }

    /**
     * @param  array<string, string>  $row
     * @param  array{is: string, row: int}|null  $before
     */
    private function problem(array $row, string $is, ?array $before): ?string
    {
        $old = trim($row['Old value']);
        $decision = strtolower($row['Decision'] ?? '');

        return match (true) {
            $before !== null && $before['is'] !== $is => "\"$old\" has two new values, here and in row $before[row]. "
                .'One old value becomes one new one.',
            $decision !== '' && ! in_array($decision, self::DECISIONS, true) => "A decision is value, empty or reject, not \"$decision\".",
            max(mb_strlen($old), mb_strlen($row['New value'])) > self::LONGEST => 'Longer than '.self::LONGEST.' characters.',
            default => null,
        };
    }

    /**
     * @return string|null why it was not made
     */
    public function make(Migration $migration, Change $change): ?string
    {
        $data = $change->data;
        $crosswalk = $migration->codeCrosswalks()->findOrFail($data['crosswalk']);
        $entry = $crosswalk->entries()->where('old_value', $data['old'])->first();
        if (array_key_exists('note', $data)) {
            $entry?->update(['note' => $data['note'] === '' ? null : $data['note']]);

            return null;
        }
        if (self::said($entry) !== $change->from) {
            return Changes::STALE;
        }
        $value = str_starts_with($data['is'], 'value ') ? substr($data['is'], 6) : null;
        $this->repairs->mapCode($migration, $crosswalk, $data['old'], $value, $data['is'] === 'reject');

        return null;
    }

    private static function said(?CodeEntry $entry): string
    {
        return match (true) {
            $entry === null => '',
            $entry->decision === CodeDecision::Reject => 'reject',
            $entry->new_value === null => 'empty',
            default => "value $entry->new_value",
        };
    }
}
