<?php

namespace App\Specification;

use App\Models\Change;
use App\Models\ChangeKind;
use App\Models\ColumnDecision;
use App\Models\Load;
use App\Models\Migration;
use App\Models\User;

/**
 * Changed reasons why columns are left behind.
 */
final class ColumnChanges
{
    /**
     * @param  array<int, array<string, string>>  $rows  by number
     * @return list<Change>
     */
    public function read(Migration $migration, array $rows): array
    {
        $loads = $migration->loads()->with('extract')->get()->keyBy('name');
        $found = [];
        foreach ($rows as $number => $row) {
            $load = $loads[$row['Load']] ?? null;
            $from = $load === null ? '' : $this->reason($load, $row['Column']);
            $to = $row['Left behind because'];
            if ($load === null || $from === $to) {
                continue;
            }
            $problem = $load->extract->tidyColumns()->find($row['Column']) === null
                ? "Row $number: the extract has no such column." : null;
            $data = ['extract' => $load->extract_id, 'header' => $row['Column']];
            $where = "{$load->extract->name}, $row[Column]";
            $found[] = (new Change(ChangeKind::Column, $where, 'Left behind because', $from, $to, $data))->but($problem);
        }

        return $found;
    }

    private function reason(Load $load, string $header): string
    {
        return (string) ColumnDecision::query()->where('extract_id', $load->extract_id)->where('header', $header)->value('reason');
    }

    /**
     * @return string|null why it was not made
     */
    public function make(Change $change, ?User $user): ?string
    {
        $of = ['extract_id' => $change->data['extract'], 'header' => $change->data['header']];
        if ((string) ColumnDecision::query()->where($of)->value('reason') !== $change->from) {
            return Changes::STALE;
        }
        $change->to === ''
            ? ColumnDecision::query()->where($of)->delete()
            : ColumnDecision::query()->updateOrCreate($of, ['reason' => $change->to, 'user_id' => $user?->id]);

        return null;
    }
}
