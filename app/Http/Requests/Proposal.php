<?php

namespace App\Http\Requests;

use App\Ledger\CauseReader;
use App\Ledger\CauseSet;
use App\Models\Load;
use App\Models\Round;
use App\Rejects\CodesBehind;
use App\Rejects\Proposed;
use App\Rejects\ProposedKind;
use Baggage\Core\Reading\Limits;
use Baggage\Core\Rows\Outcome;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Validation\Rules\Enum;

/** A repair as a form says it: of some causes ticked, of all that are alike, or of one row. */
final class Proposal extends FormRequest
{
    /** Old codes that are given a new one at once. */
    private const CODES = 2_000;

    public function authorize(): bool
    {
        return $this->user()?->can('repair', $this->route('migration')) ?? false;
    }

    /** @return array<string, mixed> */
    public function rules(): array
    {
        return [
            'what' => ['required', (new Enum(ProposedKind::class))->except([ProposedKind::Answers])],
            'alike' => 'nullable|string|max:300',
            'causes' => 'nullable|array|max:5000',
            'causes.*' => 'integer',
            'row' => 'nullable|integer|min:1|required_without_all:alike,causes',
            'header' => 'required_if:what,correct|nullable|string|max:1000',
            'new' => 'nullable|string|max:4000',
            'code' => 'nullable|string|max:190',
            'made' => 'nullable|boolean',
            'is' => 'nullable|in:value,empty,reject',
            'cells' => 'required_if:what,row|nullable|array|max:'.Limits::now()->columns,
            'cells.*' => 'nullable|string|max:100000',
            'crosswalk' => 'required_if:what,code|nullable|string|max:100',
            'olds' => 'nullable|array|max:'.self::CODES,
            'olds.*' => 'string|max:190',
            'field' => 'required_if:what,rule,parent|nullable|string|max:190',
            'expression' => 'required_if:what,rule|nullable|string|max:5000',
            'version' => 'nullable|integer|min:0',
            'parent' => 'required_if:what,parent|nullable|string|max:190',
            'parent_is' => 'nullable|in:record,key',
            'record' => 'required_if:what,match|nullable|string|max:190',
            'reason' => 'required_if:what,stay|required_if:what,match|nullable|string|max:500',
            'seen' => 'nullable|integer|min:0',
            'was' => 'nullable|string',
        ];
    }

    /** @return array<string, string> */
    public function messages(): array
    {
        return [
            'reason.required_if' => 'Say why, for those who read it later.',
            'parent.required_if' => 'Say which record, or which legacy key.',
            'record.required_if' => 'Say which record of the target it is.',
            'row.required_without_all' => 'Say which rows are meant.',
        ];
    }

    /** @throws \DomainException */
    public function proposed(Round $round, Load $load): Proposed
    {
        $kind = ProposedKind::from((string) $this->input('what'));
        $causes = $this->causes($load);
        $lane = $round->laneId();
        $olds = array_map(strval(...), (array) $this->input('olds', []));
        if ($kind === ProposedKind::Code && $olds === [] && $causes !== null) {
            $olds = (new CauseReader($lane))->valuesOf($causes, $load->id, self::CODES);
            $olds = $this->boolean('made') ? CodesBehind::oldsOf($load->migration_id, (string) $this->input('crosswalk'), $olds) : $olds;
        }

        return new Proposed(
            $kind,
            $load->id,
            $causes,
            $causes === null ? $this->integer('row') : null,
            $causes?->rows($lane, $load->id, Outcome::Rejected) ?? 1,
            $kind === ProposedKind::Correct ? $this->input('header') : null,
            $this->newValue($kind),
            $kind === ProposedKind::Row ? $this->cells($round, $load) : null,
            $kind === ProposedKind::Code ? $this->input('crosswalk') : null,
            $olds,
            $kind === ProposedKind::Code && $this->input('is') === 'reject',
            in_array($kind, [ProposedKind::Rule, ProposedKind::Parent], true) ? $this->input('field') : null,
            match ($kind) {
                ProposedKind::Parent => $this->withParent($load),
                ProposedKind::Rule => trim((string) $this->input('expression')),
                default => null,
            },
            $this->integer('version'),
            $kind === ProposedKind::Match ? trim((string) $this->input('record')) : null,
            trim((string) $this->input('reason')),
            $this->filled('seen') ? $this->integer('seen') : null,
            is_string($this->input('was')) ? $this->input('was') : null,
        );
    }

    /** @throws \DomainException where a code is none */
    private function newValue(ProposedKind $kind): ?string
    {
        $new = match (true) {
            $kind !== ProposedKind::Code => $kind === ProposedKind::Correct ? (string) $this->input('new') : null,
            in_array($this->input('is'), ['empty', 'reject'], true) => null,
            default => trim((string) $this->input('code')),
        };

        return $kind === ProposedKind::Code && $new === ''
            ? throw new \DomainException('Give a new value, or say that it stays empty or rejects the row.')
            : $new;
    }

    /** Where whoever proposes it goes on: the page it was proposed on. */
    public function from(): ?string
    {
        // What the session takes for the page before may be something a script fetched.
        $url = (string) $this->headers->get('referer');
        $path = parse_url($url, PHP_URL_PATH);
        $query = parse_url($url, PHP_URL_QUERY);

        return is_string($path) && str_starts_with($path, '/m/') ? $path.(is_string($query) ? "?$query" : '') : null;
    }

    private function causes(Load $load): ?CauseSet
    {
        $ids = array_map(intval(...), (array) $this->input('causes', []));
        $alike = explode('~', (string) $this->input('alike'), 4);

        return match (true) {
            $this->filled('row') => null,
            $ids !== [] => CauseSet::some($ids),
            count($alike) === 4 && (int) $alike[0] === $load->id => CauseSet::alike(
                $alike[1], $alike[2], $alike[3] === '' ? null : $alike[3],
            ),
            default => CauseSet::some([]),
        };
    }

    /** @return list<string> */
    private function cells(Round $round, Load $load): array
    {
        $width = count($round->roundLoads()->where('load_id', $load->id)->first()->take->columns ?? []);
        $cells = array_map(fn ($c) => (string) $c, array_values((array) $this->input('cells')));
        // Places beyond the header are only there to move cells through.
        while (count($cells) > $width && end($cells) === '') {
            array_pop($cells);
        }

        return $cells;
    }

    /** The rule there is, with a parent for those whose own is nowhere. */
    private function withParent(Load $load): string
    {
        $rule = (string) $load->rules()->where('field', $this->input('field'))->value('expression');
        $text = "'".addcslashes(trim((string) $this->input('parent')), "'\\")."'";
        $else = $this->input('parent_is') === 'record' ? "record($text)" : "parent($text)";

        return $rule === '' ? throw new \DomainException('The field has no rule yet.') : "parent_or($rule, $else)";
    }
}
