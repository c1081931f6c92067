<?php

namespace App\Files;

use App\Decisions\RowKeys;
use Illuminate\Support\Facades\DB;

/** What the client said of rows, beside their cells; it goes with the row into later takes. */
final class RowRemarks
{
    /** Told of one answer. */
    private const MOST = 500;

    /** @return list<\stdClass> extract_id, row_no, remark: what an answer says beside its rows */
    public static function ofAnswer(int $answer): array
    {
        return DB::table('row_remarks as r')
            ->join('row_keys as k', 'k.id', '=', 'r.row_key_id')
            ->where('r.answer_id', $answer)
            ->orderBy('k.extract_id')
            ->orderBy('k.row_no')
            ->limit(self::MOST)
            ->get(['k.extract_id', 'k.row_no', 'r.remark'])
            ->all();
    }

    /** @return list<\stdClass> remark, sent_by, name of the file, created_at: of a row of a take, the newest first */
    public static function of(int $take, int $row): array
    {
        $key = RowKeys::placed($take, [$row])[$row] ?? null;

        return $key === null ? [] : DB::table('row_remarks as r')
            ->join('answers as a', 'a.id', '=', 'r.answer_id')
            ->where('r.row_key_id', $key)
            ->orderByDesc('a.id')
            ->get(['r.remark', 'a.sent_by', 'a.name', 'a.created_at'])
            ->all();
    }
}
