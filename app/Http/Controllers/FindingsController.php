<?php

namespace App\Http\Controllers;

use App\Models\Audit;
use App\Models\Extract;
use App\Models\Finding;
use App\Models\FindingDecision;
use App\Models\Migration;
use App\View\Say;
use App\View\Tables\Table;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Validation\Rule;

/** What people decide about the findings of an extract: one line, or all that were changed at once. */
final class FindingsController extends Controller
{
    public function decide(Request $request, Migration $migration, Extract $extract): RedirectResponse
    {
        $this->authorize('repair', $migration);
        $data = $request->validate([
            'only' => 'nullable|integer',
            'decisions' => 'required|array|max:'.Table::PAGE,
            'decisions.*.decision' => ['required', Rule::enum(FindingDecision::class)],
            'decisions.*.note' => 'nullable|string|max:1000',
            'decisions.*.was' => 'nullable|string|max:1200',
        ]);
        $asked = isset($data['only']) ? array_intersect_key($data['decisions'], [$data['only'] => 1]) : $data['decisions'];
        $findings = Finding::query()->where('take_id', $extract->take_id)->whereIn('id', array_keys($asked))->get();
        $decided = $others = [];
        foreach ($findings as $finding) {
            $wanted = $asked[$finding->id];
            $note = ($wanted['note'] ?? '') === '' ? null : $wanted['note'];
            if ($finding->decision->value === $wanted['decision'] && $finding->note === $note) {
                continue;
            }
            if (($wanted['was'] ?? $finding->state()) !== $finding->state()) {
                $wants = FindingDecision::from($wanted['decision'])->label().($note === null ? '' : ": $note");
                $others[] = ['what' => $finding->message, 'theirs' => $finding->said(), 'mine' => $wants];

                continue;
            }
            $this->keep($request, $migration, $extract, $finding, FindingDecision::from($wanted['decision']), $note);
            $decided[] = $finding;
        }

        return back()
            ->with($others === [] ? 'told' : 'refused', self::told($decided, array_column($others, 'what')))
            ->with('lost', $others);
    }

    private function keep(
        Request $request,
        Migration $migration,
        Extract $extract,
        Finding $finding,
        FindingDecision $decision,
        ?string $note,
    ): void {
        $before = $finding->said();
        $finding->update(['decision' => $decision, 'note' => $note, 'user_id' => $request->user()?->id]);
        $extract->decide($finding->code, $finding->header, $decision->value, $note, $request->user()?->id);
        Audit::note(
            $migration->id,
            "finding $finding->code of {$extract->source->code}/$extract->name: ".$decision->label(),
            ['column' => $finding->header, 'before' => $before, 'after' => $finding->said()],
        );
    }

    /**
     * @param  list<Finding>  $decided
     * @param  list<string>  $others  messages of those somebody else decided meanwhile
     */
    private static function told(array $decided, array $others): string
    {
        $told = match (count($decided)) {
            0 => 'No decision was changed.',
            1 => "\"{$decided[0]->message}\" is {$decided[0]->decision->label()}.",
            default => Say::count(count($decided), 'finding').' decided.',
        };

        return $others === [] ? $told
            : ($decided === [] ? '' : "$told ").'Somebody decided "'.implode('", "', $others).'" meanwhile; yours was not kept.';
    }
}
