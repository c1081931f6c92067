<?php

namespace Tests\Feature;

use App\Models\AuditEntry;
use App\Models\CodeEntry;
use App\Models\Connection;
use App\Models\Correction;
use App\Models\Finding;
use App\Models\Load;
use App\Models\Membership;
use App\Models\Migration;
use App\Models\Role;
use App\Models\Round;
use App\Models\User;
use App\People\DoorRules;
use Illuminate\Support\Facades\DB;
use Illuminate\Testing\TestResponse;
use Tests\TestCase;

/**
 * Two people have one form open. The first is kept, the second is told and sees both texts; who sends theirs again from the page as it
 * is now has it. Forms are taken from the pages themselves, as a browser sends them.
 */
final class BothTextsTest extends TestCase
{
    private Migration $migration;

    private string $m;

    protected function setUp(): void
    {
        parent::setUp();
        $this->migration = $this->demoMigration(self::smallDemo());
        $this->m = "/m/{$this->migration->id}";
        $this->actingAs($this->user(Role::Lead));
    }

    /**
     * Fields of the first form of a page that goes to an address.
     *
     * @return array<string, string|list<string>>
     */
    private function form(string $page, string $to, string $having = ''): array
    {
        $document = new \DOMDocument;
        @$document->loadHTML('<?xml encoding="utf-8">'.$this->get($page)->assertOk()->getContent());
        $path = new \DOMXPath($document);
        foreach ($path->query("//form[@action='$to']") ?: [] as $form) {
            $fields = [];
            $sent = './/input[@name][not(@type="checkbox") or @checked]|.//textarea[@name]|.//select[@name]';
            foreach ($path->query($sent, $form) ?: [] as $field) {
                /** @var \DOMElement $field */
                $value = match ($field->nodeName) {
                    'select' => ($path->query('.//option[@selected]', $field)->item(0) ?? $path->query('.//option', $field)->item(0))
                        ?->attributes?->getNamedItem('value')?->nodeValue,
                    'textarea' => $field->textContent,
                    default => $field->getAttribute('value'),
                };
                $name = $field->getAttribute('name');
                str_ends_with($name, '[]') ? $fields[substr($name, 0, -2)][] = (string) $value : $fields[$name] ??= (string) $value;
            }
            if ($having === '' || str_contains(serialize($fields), $having)) {
                return array_diff_key($fields, ['_token' => 0]);
            }
        }
        self::fail("no form to $to on $page");
    }

    /**
     * @param  array<string, string>  $theirs
     * @param  array<string, string>  $mine
     * @param  list<string>  $texts  that are shown
     */
    private function bothOf(string $page, string $to, array $theirs, array $mine, array $texts, string $having = ''): void
    {
        $form = $this->form($page, $to, $having);
        $this->sent($page, $to, $theirs + $form)->assertSessionMissing('lost')->assertSessionHasNoErrors();
        $entries = AuditEntry::query()->count();
        $this->sent($page, $to, $mine + $form)->assertSessionHas('lost');
        self::assertSame($entries, AuditEntry::query()->count(), "$to: nothing of the second is kept");
        $answer = $this->get($page)->assertReads('while you had it open');
        foreach ($texts as $text) {
            $answer->assertSee($text);
        }
        // What was sent again by somebody who has seen it is kept.
        $this->sent($page, $to, $mine + $this->form($page, $to, $having))->assertSessionMissing('lost');
        $entry = AuditEntry::query()->latest('id')->firstOrFail();
        self::assertStringContainsString($texts[0], json_encode($entry->detail['before'] ?? null) ?: '', "$to: before");
        self::assertStringContainsString($texts[1], json_encode($entry->detail['after'] ?? null) ?: '', "$to: after");
    }

    /** What is tried before it is kept is kept. */
    private function sent(string $page, string $to, array $form): TestResponse
    {
        $answer = $this->from($page)->post($to, $form);
        $tried = (string) $answer->headers->get('Location');

        return str_contains($tried, '/dry-runs/') ? $this->from($page)->post("$tried/keep") : $answer;
    }

    public function test_codes_parameters_and_settings(): void
    {
        $crosswalk = $this->migration->codeCrosswalks()->firstOrFail();
        $page = "$this->m/crosswalks?code=$crosswalk->id";
        $at = "$this->m/crosswalks/codes/$crosswalk->id";
        $this->bothOf($page, "$at/otherwise", ['note' => 'their note'], ['note' => 'my note'], ['their note', 'my note']);
        $this->bothOf(
            "$this->m/mapping",
            "$this->m/mapping/parameters",
            ['name' => 'cut_day', 'prompt' => 'Which day?'],
            ['name' => 'cut_day', 'prompt' => 'Which month?'],
            ['Which day?', 'Which month?'],
        );
        $load = $this->migration->loads()->firstOrFail();
        $this->bothOf(
            "$this->m/mapping/{$load->entity->name}?load=$load->id",
            "$this->m/mapping/loads/$load->id",
            ['scope' => '1 == 1', 'scope_reason' => 'all of them'],
            ['scope' => '2 == 2', 'scope_reason' => 'none of them'],
            ['1 == 1', '2 == 2'],
            'key_normalisation',
        );
        self::assertSame('2 == 2', Load::query()->findOrFail($load->id)->scope);
    }

    public function test_a_code_that_somebody_else_decided(): void
    {
        // What no form sends is no reason to fail.
        $at = "$this->m/crosswalks/codes/1/otherwise";
        foreach (['{"note":["x"]}', '{"note":{"a":1}}', '[1]', 'null', '{', '7'] as $was) {
            $this->post($at, ['otherwise' => 'reject', 'note' => "n$was", 'was' => $was])->assertSessionMissing('lost')->assertRedirect();
            $this->post("$this->m/mapping/parameters", ['name' => 'cut_day', 'prompt' => "p$was", 'was' => $was])->assertRedirect();
        }
        $crosswalk = $this->migration->codeCrosswalks()->firstOrFail();
        [$page, $at] = ["$this->m/crosswalks?code=$crosswalk->id", "$this->m/crosswalks/codes/$crosswalk->id"];
        $entry = $crosswalk->entries()->whereNotNull('new_value')->firstOrFail();
        $form = ['old' => 'ZZ9', 'new' => (string) $entry->new_value] + $this->form($page, $at);
        $this->post($at, $form)->assertSessionHas('told');
        $this->from($page)->post($at, ['is' => 'empty'] + $form)->assertSessionHas('lost');
        self::assertSame($entry->new_value, CodeEntry::query()->where('old_value', 'ZZ9')->value('new_value'));
        // In the table, line by line.
        $row = ['old' => 'ZZ9', 'was' => 'value|other|', 'is' => 'value', 'new' => (string) $entry->new_value, 'note' => 'mine'];
        $this->from($page)->post("$at/table", ['rows' => [$row]])
            ->assertSessionHas('lost', [['what' => 'ZZ9', 'theirs' => $entry->new_value, 'mine' => "$entry->new_value (mine)"]]);
    }

    public function test_connections_and_what_is_left_behind(): void
    {
        $target = $this->migration->targets()->firstOrFail();
        $target->update(['password' => 'very-secret', 'host' => '127.0.0.1', 'port' => '9']);
        $page = "$this->m/connections";
        $place = ['port' => '9', 'database' => 'd', 'username' => 'u', 'password' => 'very-secret'];
        [$theirs, $mine] = ['127.0.0.2', '127.0.0.3'];
        $this->bothOf($page, "$page/$target->id", ['host' => $theirs] + $place, ['host' => $mine] + $place, [$theirs, $mine]);
        $source = $this->migration->sources()->firstOrFail();
        $connection = Connection::query()->create(['source_id' => $source->id, 'name' => 'old', 'driver' => 'mysql', 'host' => '127.0.0.1',
            'port' => '9', 'database' => 'x', 'notes' => '']);
        $page = "$this->m/sources/connections/$connection->id";
        $to = "$this->m/sources/$source->id/connections";
        $form = $this->form($page, $to);
        $this->post($to, ['notes' => 'theirs', 'password' => 'very-secret'] + $form)->assertSessionMissing('lost');
        $this->from($page)->post($to, ['notes' => 'mine'] + $form)
            ->assertSessionHas('lost', [['what' => 'Notes', 'theirs' => 'theirs', 'mine' => 'mine']]);
        self::assertStringNotContainsString('very-secret', serialize(DB::table('audit_entries')->get()->all()), 'no secret is in a log');
        $extract = $this->migration->extracts()->firstOrFail();
        $to = "$this->m/mapping/extracts/$extract->id/columns";
        $form = ['header' => $extract->columns[0]['header'] ?? '', 'was' => '{"reason":""}'];
        $this->post($to, ['reason' => 'empty'] + $form)->assertSessionMissing('lost');
        $this->post($to, ['reason' => 'of no use'] + $form)->assertSessionHas('lost');
    }

    public function test_a_round_a_cell_and_a_value_of_many_rows(): void
    {
        $round = $this->load($this->migration);
        [$theirs, $mine] = ['first try', 'second try'];
        $this->bothOf("$this->m/runs", "$this->m/runs/describe", ['note' => $theirs], ['note' => $mine], [$theirs, $mine]);
        $at = DB::table('outcomes')->where('lane_id', $round->laneId())->where('outcome', 'rejected')->orderBy('load_id')->first();
        self::assertNotNull($at);
        $to = "$this->m/rejects/loads/$at->load_id/try";
        $page = "$this->m/rows/$at->load_id/$at->item?round=$round->id";
        $this->bothOf($page, $to, ['new' => 'theirs'], ['new' => 'mine'], ['theirs', 'mine'], '"header"');
        $this->value($round);
    }

    private function value(Round $round): void
    {
        $cause = DB::table('row_causes as w')->where('w.lane_id', $round->laneId())
            ->join('outcomes as o', fn ($j) => $j
                ->on('o.lane_id', '=', 'w.lane_id')->on('o.load_id', '=', 'w.load_id')->on('o.item', '=', 'w.item'))
            ->where('o.outcome', 'rejected')->groupBy('w.cause_id', 'w.load_id')
            ->orderByDesc('n')->first(['w.cause_id', 'w.load_id', DB::raw('COUNT(*) AS n')]);
        self::assertGreaterThan(1, $cause?->n);
        $take = $round->roundLoads()->where('load_id', $cause->load_id)->firstOrFail()->take;
        $to = "$this->m/rejects/loads/$cause->load_id";
        $seen = (int) DB::table('decisions')->max('id');
        $form = ['cause' => $cause->cause_id, 'header' => $take->columns[0]['header'] ?? '', 'seen' => $seen];
        $this->repaired($to, 'correct', ['new' => 'theirs'] + $form)
            ->assertSessionHas('told', fn (string $told) => ! str_starts_with($told, '0 '));
        $made = Correction::query()->count();
        $this->repaired($to, 'correct', ['new' => 'mine'] + $form)->assertSessionHas('lost');
        self::assertSame($made, Correction::query()->count());
        $this->repaired($to, 'correct', ['new' => 'theirs'] + $form)->assertSessionMissing('lost')
            ->assertSessionHas('refused', fn (string $why) => str_contains($why, 'says that already'));
        $now = ['new' => 'mine', 'seen' => (int) DB::table('decisions')->max('id')];
        $this->repaired($to, 'correct', $now + $form)->assertSessionHas('told');
    }

    public function test_findings_roles_and_the_rules_of_sessions(): void
    {
        $finding = Finding::query()->firstOrFail();
        $to = "$this->m/sources/extracts/$finding->extract_id/findings";
        $line = fn (string $note) => ['decisions' => [$finding->id => ['decision' => 'accepted', 'note' => $note, 'was' => 'open|']]];
        $this->post($to, $line('seen by them'))->assertSessionHas('told');
        $this->post($to, $line('seen by me'))->assertSessionHas('lost', fn (array $lost) => str_contains($lost[0]['theirs'], 'seen by them')
            && str_contains($lost[0]['mine'], 'seen by me'));
        $bo = User::query()->create(['name' => 'Bo', 'email' => 'bo@example.test', 'password' => 'three quiet otters']);
        Membership::give($bo, $this->migration, Role::Auditor);
        $this->bothOf("$this->m/people", "$this->m/people/$bo->id", ['role' => 'consultant'], ['role' => 'client reviewer'],
            ['consultant', 'client reviewer']);
        $this->bothOf('/sessions', '/sessions', ['idle' => '20'], ['idle' => '40'], ['20 minutes', '40 minutes']);
        self::assertSame(40, DoorRules::now()->idleMinutes);
    }
}
