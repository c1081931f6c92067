<?php

namespace App\Http\Requests;

use App\Models\Extract;
use Baggage\Core\Feeds\FeedFormat;
use Illuminate\Foundation\Http\FormRequest;
use Illuminate\Support\Collection;

/** A feed to be made out of extracts. */
final class NewFeed extends FormRequest
{
    public function authorize(): bool
    {
        return $this->user()?->can('work', $this->route('migration')) ?? false;
    }

    /** @return array<string, mixed> */
    public function rules(): array
    {
        return [
            'name' => ['required', 'string', 'max:100', 'not_regex:~/~'],
            'combined' => 'required|string',
            'of' => 'required|array',
            'of.*' => 'integer',
            'left' => 'array',
            'left.*' => 'nullable|string',
            'right' => 'array',
            'right.*' => 'nullable|string',
            'distinct' => 'array',
            'distinct.*' => 'string',
            'compared' => 'nullable|string',
        ];
    }

    /**
     * @param  Collection<int, Extract>  $known
     * @return list<Extract> those it is made of, in the order chosen
     */
    public function extracts(Collection $known): array
    {
        return array_values(array_filter(
            array_map(fn ($id) => $known->firstWhere('id', (int) $id), $this->validated('of')),
        ));
    }

    /**
     * @param  list<Extract>  $of
     *
     * @throws \InvalidArgumentException
     */
    public function feed(array $of): FeedFormat
    {
        return FeedFormat::fromArray([
            'combined' => $this->validated('combined'),
            'of' => array_map(fn (Extract $e) => "{$e->source?->code}/$e->name", $of),
            'on' => $this->on(),
            'distinct' => $this->validated('distinct') ?? [],
            'compared' => $this->validated('compared') ?? 'trim',
        ]);
    }

    /** @return array<string, string> column of the first extract → column of the second */
    private function on(): array
    {
        $on = [];
        foreach ($this->validated('left') ?? [] as $i => $left) {
            $right = (string) $this->input("right.$i");
            if ((string) $left !== '' && $right !== '') {
                $on[(string) $left] = $right;
            }
        }

        return $on;
    }
}
