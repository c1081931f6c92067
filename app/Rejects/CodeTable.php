<?php

namespace App\Rejects;

use App\Catalogue\CodeFit;
use App\Catalogue\CodeUse;
use App\Models\CodeCrosswalk;
use App\Models\CodeDecision;
use App\Models\CodeEntry;
use App\Models\Migration;

/** Keeps what was typed into the table of a code crosswalk, line by line; what somebody else changed meanwhile is left. */
final readonly class CodeTable
{
    public function __construct(private Repairs $repairs)
    {
    }

    /**
     * @param  list<array{old: string, was?: string|null, is: string, new?: string|null, note?: string|null}>  $rows
     * @return array{int, array<array-key, array{what: string, theirs: string, mine: string}>, array<array-key, string>} codes kept,
     *                         by old value what somebody else said of it meanwhile, and why the target would not take its new one
     */
    public function keep(Migration $migration, CodeCrosswalk $crosswalk, array $rows, CodeFit $fit): array
    {
        $entries = $crosswalk->entries()->get()->keyBy('old_value');
        $kept = 0;
        $left = $refused = [];
        foreach ($rows as $row) {
            $old = trim($row['old']);
            $was = (string) ($row['was'] ?? '');
            $wanted = $this->wanted($row);
            if (CodeUse::state($wanted) === $was || $wanted['is'] === '') {
                continue;
            }
            $entry = $entries[$old] ?? null;
            if (CodeUse::stateOf($entry) !== $was) {
                $left[$old] = [
                    'what' => $old,
                    'theirs' => self::said(CodeUse::stateOf($entry)),
                    'mine' => self::said(CodeUse::state($wanted)),
                ];

                continue;
            }
            $value = $wanted['is'] === 'value' ? $wanted['new'] : null;
            $why = $wanted['is'] === 'reject' || ($entry !== null && $entry->new_value === $value) ? null : $fit->refusal($value);
            if ($why !== null) {
                $refused[$old] = $why;

                continue;
            }
            $this->change($migration, $crosswalk, $old, $entry, $wanted);
            $crosswalk->entries()->where('old_value', $old)->update(['note' => $wanted['note'] === '' ? null : $wanted['note']]);
            $kept++;
        }

        return [$kept, $left, $refused];
    }

    /** A state of CodeUse in words. */
    public static function said(string $state): string
    {
        if ($state === '') {
            return 'nothing';
        }
        [$is, $new, $note] = explode('|', $state, 3) + ['', '', ''];
        $says = ['value' => $new, 'empty' => 'stays empty', 'reject' => 'rejects the row'][$is] ?? $new;

        return $note === '' ? $says : "$says ($note)";
    }

    /**
     * @param  array{old: string, was?: string|null, is: string, new?: string|null, note?: string|null}  $row
     * @return array{is: string, new: string, note: string} "is" is empty where nothing is wanted
     */
    private function wanted(array $row): array
    {
        $new = $row['is'] === 'value' ? trim((string) ($row['new'] ?? '')) : '';

        return [
            'is' => $row['is'] === 'value' && $new === '' ? '' : $row['is'],
            'new' => $new,
            'note' => trim((string) ($row['note'] ?? '')),
        ];
    }

    /** @param  array{is: string, new: string, note: string}  $wanted */
    private function change(Migration $migration, CodeCrosswalk $crosswalk, string $old, ?CodeEntry $entry, array $wanted): void
    {
        $value = $wanted['is'] === 'value' ? $wanted['new'] : null;
        $rejects = $wanted['is'] === 'reject';
        if ($entry !== null && $entry->new_value === $value && ($entry->decision === CodeDecision::Reject) === $rejects) {
            return;
        }
        $this->repairs->mapCode($migration, $crosswalk, $old, $value, $rejects);
    }
}
