<?php

namespace App\Rejects;

use App\Models\Audit;
use App\Models\Load;
use App\Models\User;
use Illuminate\Support\Facades\Auth;
use Illuminate\Support\Facades\DB;

/** Who sees to which cause, and until when. It stays with the cause in later takes and rounds. */
final class CauseTasks
{
    /**
     * @param  list<int>  $loads
     * @return array<string, \stdClass> id of the group → user_id, who, until, note
     */
    public static function all(array $loads): array
    {
        $found = [];
        $tasks = DB::table('cause_tasks as t')
            ->join('users as u', 'u.id', '=', 't.user_id')
            ->whereIntegerInRaw('t.load_id', $loads)
            ->get(['t.load_id', 't.stage', 't.code', 't.field', 't.user_id', 'u.name as who', 't.until', 't.note']);
        foreach ($tasks as $task) {
            $found["$task->load_id~$task->stage~$task->code~$task->field"] = $task;
        }

        return $found;
    }

    /** @param  User|null  $to  null: nobody any more */
    public static function give(Load $load, CauseGroup $group, ?User $to, ?string $until, ?string $note): void
    {
        $of = ['load_id' => $load->id, 'stage' => $group->stage, 'code' => $group->code, 'field' => (string) $group->field];
        if ($to === null) {
            DB::table('cause_tasks')->where($of)->delete();
        } else {
            DB::table('cause_tasks')->updateOrInsert($of, [
                'user_id' => $to->id, 'until' => $until, 'note' => $note, 'given_by' => Auth::id(), 'updated_at' => now(),
            ]);
        }
        Audit::note($load->migration_id, $to === null ? "took a cause of $load->name back" : "gave a cause of $load->name", [
            'cause' => trim("$group->field: $group->message", ': '), 'to' => $to?->name, 'until' => $until, 'note' => $note,
        ]);
    }
}
