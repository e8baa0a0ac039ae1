// full
// A divider by ten, whose carry counts on, and another by twelve behind it.
module top(input clk, input key, output [3:0] units, output lamp);
  reg [3:0] tenth = 0;
  reg [3:0] dozen = 0;
  reg [19:0] slow = 0;
  reg [3:0] n = 0;
  wire tick = tenth == 9;
  always @(posedge clk) begin
    tenth <= tick ? 0 : tenth + 1;
    if (tick) dozen <= dozen == 11 ? 0 : dozen + 1;
    if (!key) begin slow <= 0; n <= 0; end
    else if (tick && dozen == 0) begin
      slow <= slow == 99_999 ? 0 : slow + 1;
      if (slow == 99_999) n <= n + 1;
    end
  end
  assign units = n;
  assign lamp = slow > 50_000;
endmodule
