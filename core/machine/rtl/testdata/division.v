// full
// Four digits by division and remainder, of a number that counts tenths, each digit held for a millisecond.
module top(input clk, input key, output reg [3:0] digit, output [3:0] enable);
  reg [23:0] tenth = 0;
  reg [16:0] hold = 0;
  reg [13:0] n = 0;
  reg [1:0] at = 0;
  always @(posedge clk) begin
    tenth <= tenth == 24'd9_999_999 ? 24'd0 : tenth + 1'b1;
    if (key) n <= 0;
    else if (tenth == 24'd9_999_999) n <= n == 14'd9999 ? 14'd0 : n + 1'b1;
    hold <= hold == 17'd99_999 ? 17'd0 : hold + 1'b1;
    if (hold == 17'd99_999) at <= at + 1'b1;
  end
  always @* case (at)
    0: digit = n % 10;
    1: digit = n / 10 % 10;
    2: digit = n / 100 % 10;
    default: digit = n / 1000;
  endcase
  assign enable = ~(4'b0001 << at);
endmodule
